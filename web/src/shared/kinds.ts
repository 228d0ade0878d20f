import list from "./kinds.json";

/** What can be done with files of a kind: see the table's source, package convert. */
type Use = { sort: string; becomes: string[]; pages: boolean; cleaned: boolean };

const none: Use = { sort: "", becomes: [], pages: false, cleaned: false };

export const uses = (kind: string): Use => (list as Record<string, Use>)[kind] ?? none;

/** pdf, picture, document, sheet, sound or film; "" where nothing can be done with a kind. */
export const sortOf = (kind: string) => uses(kind).sort;

/** A kind as people write it. */
export const formOf = (kind: string) =>
  kind === "unknown" ? "other" : kind === "empty" ? "empty" : kind.toUpperCase();
