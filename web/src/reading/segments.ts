import type { Reading } from "../api/client";

export type Passage = Reading["passages"][number];

/**
 * A stretch of text, in or outside a passage. Last says that the passage ends with it; after is the punctuation that
 * closes the sentence there, which does not belong to the passage.
 */
export type Segment = { text: string; passage?: Passage; last?: boolean; after?: string };

/** A paragraph with the passages that begin in it. */
export type Paragraph = { segments: Segment[]; begins: Passage[] };

/**
 * Cuts a report's text into paragraphs and those into segments. Offsets count code points. Where
 * passages overlap, the one that counts comes first, then the longer one.
 */
export function paragraphs(text: string, passages: Passage[]): Paragraph[] {
  const points = Array.from(text);
  const owner = new Array<Passage | undefined>(points.length);
  const order = [...passages].sort(
    (a, b) =>
      Number(a.excluded !== "") - Number(b.excluded !== "") || b.end - b.start - (a.end - a.start),
  );
  for (const p of order) for (let i = p.start; i < p.end && i < points.length; i++) owner[i] ??= p;
  const ends = new Map<Passage, number>();
  owner.forEach((p, i) => p && ends.set(p, i));

  const breaks = shortLines(points);
  const blank = (at: number) => gapEnd(points, at, breaks);
  const list: Paragraph[] = [];
  let current: Paragraph = { segments: [], begins: [] };
  const seen = new Set<Passage>();
  let at = 0;
  const flush = () => {
    closeUp(current.segments);
    if (current.segments.some((s) => s.text.trim() !== "")) list.push(current);
    current = { segments: [], begins: [] };
  };
  while (at < points.length) {
    const gap = blank(at);
    if (gap > at) {
      flush();
      at = gap;
      continue;
    }
    const passage = owner[at];
    let end = at;
    while (end < points.length && owner[end] === passage && blank(end) === end) end++;
    const segment: Segment = {
      text: points.slice(at, end).join(""),
      passage,
      last: passage && ends.get(passage) === end - 1,
    };
    current.segments.push(segment);
    if (passage && !seen.has(passage)) {
      seen.add(passage);
      current.begins.push(passage);
    }
    at = end;
  }
  flush();
  return list;
}

/** Punctuation that follows a passage goes with its end, so that nothing is shown between them. */
function closeUp(segments: Segment[]) {
  segments.forEach((s, i) => {
    const next = segments[i + 1];
    const mark = s.last && next && !next.passage && /^\p{P}+/u.exec(next.text)?.[0];
    if (!mark) return;
    s.after = mark;
    next.text = next.text.slice(mark.length);
  });
}

/** A line longer than this was not broken by a page: every line is a paragraph. */
const unbroken = 200;

/**
 * Line ends that are most likely the end of a paragraph: in text taken from pages, lines are as long as
 * the page allows, but for the last one of a paragraph and for headings.
 */
function shortLines(points: string[]): Set<number> {
  const ends: [at: number, length: number][] = [];
  let start = 0;
  points.forEach((c, i) => {
    if (c === "\n") {
      ends.push([i, i - start]);
      start = i + 1;
    }
  });
  const full = Math.max(0, ...ends.map(([, length]) => length));
  return new Set(
    full < 50
      ? []
      : ends.filter(([, length]) => full > unbroken || length < 0.72 * full).map(([at]) => at),
  );
}

/** The end of a paragraph break that begins at a place, or the place itself. */
function gapEnd(points: string[], at: number, breaks: Set<number>): number {
  if (points[at] === "\f") return at + 1;
  if (points[at] !== "\n") return at;
  let end = at + 1;
  while (end < points.length && (points[end] === " " || points[end] === "\t")) end++;
  if (points[end] !== "\n") return breaks.has(at) ? at + 1 : at;
  while (end < points.length && /\s/.test(points[end]!)) end++;
  return end;
}
