/** A stretch of a text in code points, end exclusive. */
export type Chosen = { start: number; end: number };

/** What is selected within an element that shows a text as it is; undefined: nothing in it. */
export function chosenIn(box: Node, selection: Selection | null): Chosen | undefined {
  if (!selection || selection.isCollapsed || selection.rangeCount === 0) return undefined;
  const range = selection.getRangeAt(0);
  if (!box.contains(range.startContainer) || !box.contains(range.endContainer)) return undefined;
  const before = document.createRange();
  before.setStart(box, 0);
  before.setEnd(range.startContainer, range.startOffset);
  const start = [...before.toString()].length;
  return { start, end: start + [...range.toString()].length };
}

/** The words of a text. */
export function words(text: string): Chosen[] {
  const list: Chosen[] = [];
  let at = 0;
  for (const piece of text.split(/(\s+)/)) {
    const length = [...piece].length;
    if (piece.trim() !== "") list.push({ start: at, end: at + length });
    at += length;
  }
  return list;
}
