/** The forms named in "pdf, Word or .odt", as words without their dots. */
export const forms = (text: string): string[] =>
  text
    .toLowerCase()
    .split(/[\s,;/]+/)
    .map((word) => word.replace(/^\.+|\.+$/g, ""))
    .filter((word) => word && word !== "or" && word !== "and");
