/** Keys of what the server is asked for: one place for those who ask and for those who say that it has changed. */
export const keys = {
  me: ["me"],
  horizon: ["horizon"],
  desk: (id: number, part: number) => ["desk", id, part],
  ownCheck: (id: number, part: number) => ["desk", id, part, "check"],
  sources: (id: number) => ["desk", id, "sources"],
  extension: (id: number, until: string) => ["extension", id, until],
  reading: (id: number) => ["reading", id],
  ledger: ["ledger"],
  library: (q: string) => ["library", q],
  space: ["library", "space"],
  version: (id: number) => ["version", id],
  courses: ["courses"],
  enrolments: ["enrolments"],
  settings: ["settings"],
  plan: ["plan"],
  week: (from: string) => ["week", from],
  feeds: ["feeds"],
  link: ["link"],
  sessions: ["sessions"],
  draft: (id: number) => ["draft", id],
  workpieces: (id: number, part: number) => ["workpieces", id, part],
  workpiece: (id: number) => ["workpiece", id],
  recordings: ["recordings"],
  typed: (...of: unknown[]) => ["typed", ...of],
  name: (...of: unknown[]) => ["name", ...of],
  line: (asked: string) => ["line", asked],
  search: (asked: string) => ["search", asked],
  phone: (token: string) => ["phone", token],
  // What never changes: it is computed of a file, which stays as it is, or is said of this place.
  photograph: (version: number) => ["still", "photograph", version],
  made: (source: string) => ["still", "made", source],
  words: (key: string) => ["still", "words", key],
  entrance: ["still", "entrance"],
} as const;

/** Whether what is asked for by a key can change by anything that is done. */
export const changes = (key: readonly unknown[]) => key[0] !== "still";

/** The keys of what is shown on pages that the server says have changed; assignment 0: whichever it is. */
export function keysOf(pages: string[], assignment: number): (readonly unknown[])[] {
  const of = (first: string) => (assignment > 0 ? [first, assignment] : [first]);
  const shown: Record<string, (readonly unknown[])[]> = {
    horizon: [keys.horizon],
    desk: [of("desk"), of("extension")],
    plan: [keys.plan, ["week"], keys.settings],
    ledger: [keys.ledger],
    library: [["library"], ["version"]],
    courses: [keys.courses, keys.enrolments],
    feeds: [keys.feeds, keys.link],
    reading: [["reading"]],
  };
  return pages.flatMap((p) => shown[p] ?? []);
}
