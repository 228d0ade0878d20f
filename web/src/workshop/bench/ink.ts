import { getStroke } from "perfect-freehand";
import type { Schemas } from "../../api/client";

/** A point of a stroke: where, in points of the page as it is seen, and how hard, 0 to 1. */
export type Point = [x: number, y: number, pressure: number];
export type Stroke = {
  colour: string;
  width: number;
  clear: boolean;
  pen: boolean;
  points: Point[];
};
export type Words = { x: number; y: number; size: number; colour: string; text: string };
export type PageInk = { strokes: Stroke[]; words: Words[] };
/** What is written on a document, by page; and what its form's fields hold. */
export type Ink = { pages: Record<number, PageInk>; fields: Record<string, string> };

export const nothing: Ink = { pages: {}, fields: {} };
export const pageOf = (ink: Ink, n: number): PageInk => ink.pages[n] ?? { strokes: [], words: [] };

const round = (x: number) => Math.round(x * 10) / 10;

/** The outline that a stroke fills. */
export function outline(s: Stroke): [number, number][] {
  return getStroke(s.points, {
    size: s.width,
    thinning: s.clear ? 0 : 0.55,
    smoothing: 0.5,
    streamline: 0.4,
    simulatePressure: !s.pen,
  }).map(([x, y]) => [round(x!), round(y!)]);
}

/** An outline as a path of SVG or a canvas. */
export const path = (points: [number, number][]) =>
  points.length < 3 ? "" : `M${points.map((p) => p.join(" ")).join("L")}Z`;

/** Whether an eraser of some radius touches a stroke. */
export function touches(s: Stroke, x: number, y: number, radius: number): boolean {
  const reach = radius + s.width / 2;
  return s.points.some(([px, py], i) => {
    const [qx, qy] = s.points[i + 1] ?? s.points[i]!;
    const length = (qx - px) ** 2 + (qy - py) ** 2;
    const t =
      length === 0
        ? 0
        : Math.max(0, Math.min(1, ((x - px) * (qx - px) + (y - py) * (qy - py)) / length));
    return Math.hypot(x - px - t * (qx - px), y - py - t * (qy - py)) <= reach;
  });
}

/** Marks as strokes: right, wrong, a ring. */
export function mark(
  kind: "tick" | "cross" | "ring",
  x: number,
  y: number,
  colour: string,
  width: number,
): Stroke[] {
  const line = (...points: [number, number][]): Stroke => ({
    colour,
    width,
    clear: false,
    pen: true,
    points: points.map(([dx, dy]) => [x + dx, y + dy, 0.5]),
  });
  if (kind === "tick") return [line([-7, 0], [-2, 6], [9, -8])];
  if (kind === "cross") return [line([-7, -7], [7, 7]), line([-7, 7], [7, -7])];
  const around = Array.from({ length: 41 }, (_, i): [number, number] => [
    14 * Math.cos((i / 40) * 2 * Math.PI),
    10 * Math.sin((i / 40) * 2 * Math.PI),
  ]);
  return [line(...around)];
}

export type Field = {
  name: string;
  page: number;
  box: [number, number, number, number]; // x, y, width, height as it is seen
  kind: "text" | "check" | "choice";
  many: boolean; // lines
  value: string; // that it holds already
  options: string[];
};

/** The ink as the server draws it: outlines, and what was typed into fields as words in their boxes. */
export function drawn(
  ink: Ink,
  sizes: { width: number; height: number }[],
  fields: Field[],
): Schemas["Ink"] {
  const filled: string[] = [];
  const pages = sizes.map(({ width, height }, n) => {
    const page = pageOf(ink, n);
    const words = page.words.filter((w) => w.text.trim() !== "");
    const strokes = [...page.strokes];
    for (const f of fields) {
      const value = ink.fields[f.name];
      if (f.page !== n || value === undefined || value === f.value) continue;
      if (!filled.includes(f.name)) filled.push(f.name);
      const [x, y, w, h] = f.box;
      if (f.kind === "check") {
        if (value) strokes.push(...mark("cross", x + w / 2, y + h / 2, "#1b2330", 1.4));
      } else if (value.trim() !== "") {
        const size = f.many ? 10 : Math.max(6, Math.min(12, h * 0.68));
        const top = f.many ? y + 2 : y + (h - size * 1.2) / 2;
        words.push({ x: x + 2, y: top, size, colour: "#1b2330", text: value });
      }
    }
    return {
      width,
      height,
      strokes: strokes.map((s) => ({ colour: s.colour, clear: s.clear, outline: outline(s) })),
      words,
    };
  });
  return { pages, filled };
}
