/**
 * Footnotes as the editor has them, in the text where they belong, and as Markdown has them, numbered, with their words
 * at the end. In between a note stands as its words, between two characters that nobody types.
 */
export const opens = "\uE000";
export const closes = "\uE001";

export const noted = (text: string) => opens + encodeURIComponent(text) + closes;

const definition = /^\[\^([^\]\s]+)\]:[ \t]*(.*)$/;

/** Markdown with its footnotes put where they are called; those that nobody calls go. */
export function inlined(markdown: string): string {
  const words = new Map<string, string>();
  const kept: string[] = [];
  let fence = "";
  let last = ""; // the note that a line can go on with
  for (const line of markdown.split("\n")) {
    const mark = /^ {0,3}(```+|~~~+)/.exec(line)?.[1];
    if (mark && (fence === "" || mark.startsWith(fence))) fence = fence === "" ? mark : "";
    const found = fence === "" ? definition.exec(line) : null;
    if (found) {
      last = found[1]!;
      words.set(last, found[2]!.trim());
    } else if (last !== "" && /^( {4}|\t)\S/.test(line)) {
      words.set(last, `${words.get(last)} ${line.trim()}`);
    } else {
      if (line.trim() !== "") last = "";
      kept.push(line);
    }
  }
  if (words.size === 0) return markdown;
  fence = "";
  return kept
    .map((line) => {
      const mark = /^ {0,3}(```+|~~~+)/.exec(line)?.[1];
      if (mark && (fence === "" || mark.startsWith(fence))) fence = fence === "" ? mark : "";
      if (fence !== "") return line;
      return line.replace(/(`+[^`]*`+)|\[\^([^\]\s]+)\]/g, (all, code: string, name: string) =>
        code === undefined && words.has(name) ? noted(words.get(name)!) : all,
      );
    })
    .join("\n")
    .trimEnd();
}

/** Markdown with its footnotes numbered through, and their words at the end. */
export function numbered(markdown: string): string {
  const words: string[] = [];
  const text = markdown.replace(
    new RegExp(`${opens}([^${closes}]*)${closes}`, "g"),
    (_, said: string) => `[^${words.push(decodeURIComponent(said))}]`,
  );
  if (words.length === 0) return markdown;
  const list = words.map((said, n) => `[^${n + 1}]: ${said.replace(/\s+/g, " ")}`);
  return `${text.trimEnd()}\n\n${list.join("\n")}\n`;
}

const figures = (markdown: string) =>
  markdown.replace(/&[a-z]+;|&#\d+;/gi, "").replace(/[^\p{L}\p{N}]/gu, "");

/** Whether all letters and figures of a text are still there once the editor has written it anew, in their order. */
export const keepsAll = (before: string, after: string) =>
  figures(numbered(inlined(before))) === figures(after);
