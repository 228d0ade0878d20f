import { type ScaleTime } from "d3-scale";
import type { Line } from "../api/client";
import { clock } from "../shared/time";
import { beside, type Box, Room, widthOf } from "./labels";

export type Time = ScaleTime<number, number>;

/** Where the parts of one assignment's line stand in its lane, in pixels. */
export type Drawn = {
  line: Line;
  drawn: string; // path up to now
  planned: string; // path from now on, or the whole of it
  ring?: { x: number; y: number };
  label?: { x: number; y: number }; // of the title; none: there is no room for it
  words: Words[]; // beside its marks, as far as there is room
};

/** Words beside a mark: what lateness costs, what came of it, the name of a part. */
export type Words = { kind: "part" | "price" | "outcome"; text: string; x: number; y: number };

const top = 34;
const rowHeight = 15;
const mostRows = 2; // of labels above each other

/** How high a lane is: with many courses lower, so that all stay in view. */
export const laneHeight = (courses: number) => (courses > 6 ? 78 : 100);

const time = (at: string | null) => (at === null ? undefined : new Date(at).getTime());

/** Share of the work that is left: 1 is all of it. */
export function left(l: Line): number {
  if (l.plan_minutes === 0) return 0;
  return Math.max(0, 1 - l.done_minutes / l.plan_minutes);
}

/**
 * Lays one lane out: each line starts at opens at the height of all its work and comes down to the rail
 * as the work is planned, falling only where a block stands. Labels that find no room are left out.
 */
export function layLane(lines: Line[], x: Time, now: number, rail: number, lane = 100): Drawn[] {
  const height = lane - top - 22;
  const [edge, end] = x.range() as [number, number];
  const far = 2 * edge - end; // lines are drawn a view's width beyond the edge, so that time can be moved
  const room = new Room([...lines.flatMap((l) => marks(l, x, rail)), nowLine(x(now), rail, lane)]);
  const sorted = [...lines].sort((a, b) => (time(a.opens) ?? 0) - (time(b.opens) ?? 0));
  const list = sorted.map((line): Drawn => {
    const y = (share: number) => rail - share * height;
    const opens = time(line.opens) ?? now;
    const from = Math.max(far, x(opens));
    const { drawn, planned } = paths(line, x, now, y, from, opens);
    const ring = line.sent_at === null && x(opens) >= edge ? { x: x(opens), y: y(1) } : undefined;
    return { line, drawn, planned, ring, words: [] };
  });
  // What presses finds its place first, then the titles, then what stands beside the marks.
  for (const d of [...list].sort((a, b) => Number(b.line.pressing) - Number(a.line.pressing))) {
    const at = Math.max(edge, Math.max(far, x(time(d.line.opens) ?? now))) + 7;
    if (gone(d.line, x, edge)) continue;
    const place = room.take(titlePlaces(d.line, at, x(now), rail - height - 8));
    d.label = place && { x: place.x, y: place.y + titleHeight };
  }
  for (const d of list) d.words = words(d.line, x, rail, edge, room);
  return list;
}

/** Whether a line lies wholly before the view and nothing of it is still to come. */
const gone = (l: Line, x: Time, edge: number) =>
  (l.state === "done" || l.state === "closed") && x(time(l.sent_at ?? l.due)!) < edge;

const titleHeight = 11;

/** Where a title can stand: over the beginning of its line, in either row, and never across the line of now. */
function titlePlaces(l: Line, at: number, now: number, y: number): Box[] {
  const w = widthOf(l.title, "name");
  const starts = at < now + 4 && at + w > now - 4 ? [now + 7, at] : [at];
  return starts.flatMap((x) =>
    Array.from({ length: mostRows }, (_, row) => ({
      x,
      y: y - titleHeight - row * rowHeight,
      w,
      h: titleHeight + 2,
    })),
  );
}

const nowLine = (x: number, rail: number, lane: number): Box => ({
  x: x - 3,
  y: rail - lane,
  w: 6,
  h: lane + 12,
});

/** The marks of a line on the rail: send-by, due and closes of every part, and where it was sent. */
function marks(l: Line, x: Time, rail: number): Box[] {
  const bar = (at: string | null, w: number, h: number): Box[] =>
    at === null ? [] : [{ x: x(time(at)!) - w / 2, y: rail - h, w, h }];
  const windows = l.parts.length > 0 ? l.parts : [l];
  return [
    ...windows.flatMap((p) => [...bar(p.due, 4, 20), ...bar(p.closes, 6, 20)]),
    ...(l.sent_at === null ? bar(l.send_by, 11, 9) : bar(l.sent_at, 10, 5)),
  ];
}

/** What stands beside the marks of a line. */
function words(l: Line, x: Time, rail: number, edge: number, room: Room): Words[] {
  const out: Words[] = [];
  const put = (kind: Words["kind"], text: string, at: string) => {
    // Nothing is cut by the edge of the view.
    const whole = beside(x(time(at)!), rail, text).filter((p) => p.x >= edge || p.x + p.w < edge);
    const place = text ? room.take(whole) : undefined;
    if (place) out.push({ kind, text, x: place.x, y: place.y + 9 });
  };
  for (const p of l.parts) put("part", p.name, p.due);
  if (l.sent_at === null) {
    if (l.closes) put("price", l.price, l.due);
  } else
    put(
      "outcome",
      l.report_expected
        ? `report expected ${clock(l.report_expected, l.zone)}`
        : l.outcome || "waiting for a mark",
      l.sent_at,
    );
  return out;
}

/** Whether anything of a line happens between two instants: it opens, is worked on, sent, due or closes. */
export function happens(l: Line, from: number, to: number): boolean {
  const within = (at: string | null | undefined) =>
    at !== null && at !== undefined && time(at)! >= from && time(at)! <= to;
  return (
    [l.opens, l.send_by, l.due, l.closes, l.sent_at, l.report_expected].some(within) ||
    l.parts.some((p) => within(p.opens) || within(p.due)) ||
    l.blocks.some((b) => time(b.end)! > from && time(b.start)! < to)
  );
}

function paths(
  line: Line,
  x: Time,
  now: number,
  y: (share: number) => number,
  from: number,
  opens: number,
) {
  const sent = time(line.sent_at);
  if (sent !== undefined) {
    // Sent work comes down to the rail where it was sent.
    return { drawn: x(sent) > from ? `M${from} ${y(0.45)}L${x(sent)} ${y(0)}` : "", planned: "" };
  }
  let share = left(line);
  let drawn = "";
  let path = `M${from} ${y(1)}`;
  if (opens < now) {
    drawn =
      share < 1
        ? `${path}L${Math.max(from, x(now) - 34)} ${y(1)}L${Math.max(from, x(now) - 20)} ${y(share)}L${x(now)} ${y(share)}`
        : `${path}L${x(now)} ${y(1)}`;
    path = `M${x(now)} ${y(share)}`;
  }
  const total = line.blocks.reduce((sum, b) => sum + time(b.end)! - time(b.start)!, 0);
  const begin = share;
  for (const b of line.blocks) {
    path += `L${x(time(b.start)!)} ${y(share)}`;
    share -= (begin * (time(b.end)! - time(b.start)!)) / Math.max(total, 1);
    path += `L${x(time(b.end)!)} ${y(Math.max(0, share))}`;
  }
  const last = line.blocks.at(-1);
  const end = Math.max(
    x(time(line.send_by)!),
    x(Math.max(now, opens)),
    last ? x(time(last.end)!) : 0,
  );
  return { drawn, planned: `${path}L${end} ${y(total > 0 ? 0 : share)}` };
}
