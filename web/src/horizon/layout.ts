import { type ScaleTime } from "d3-scale";
import type { Line } from "../api/client";

export type Time = ScaleTime<number, number>;

/** Where the parts of one assignment's line stand in its lane, in pixels. */
export type Drawn = {
  line: Line;
  drawn: string; // path up to now
  planned: string; // path from now on, or the whole of it
  ring?: { x: number; y: number };
  label?: { x: number; y: number }; // none: there is no room for it
};

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
  const rows: number[] = [];
  return [...lines].sort((a, b) => (time(a.opens) ?? 0) - (time(b.opens) ?? 0)).map((line) => {
    const y = (share: number) => rail - share * height;
    const opens = time(line.opens) ?? now;
    const from = Math.max(far, x(opens));
    const { drawn, planned } = paths(line, x, now, y, from, opens);
    const labelX = Math.max(edge, from) + 7;
    const width = line.title.length * 6.4 + 12;
    let row = rows.findIndex((end) => end < labelX);
    if (row < 0) row = rows.length;
    const room = row < mostRows;
    if (room) rows[row] = labelX + width;
    const ring = line.sent_at === null && x(opens) >= edge ? { x: x(opens), y: y(1) } : undefined;
    return { line, drawn, planned, ring, label: room ? { x: labelX, y: rail - height - 8 - row * rowHeight } : undefined };
  });
}

function paths(line: Line, x: Time, now: number, y: (share: number) => number, from: number, opens: number) {
  const sent = time(line.sent_at);
  if (sent !== undefined) {
    // Sent work comes down to the rail where it was sent.
    return { drawn: x(sent) > from ? `M${from} ${y(0.45)}L${x(sent)} ${y(0)}` : "", planned: "" };
  }
  let share = left(line);
  let drawn = "";
  let path = `M${from} ${y(1)}`;
  if (opens < now) {
    drawn = share < 1 ? `${path}L${Math.max(from, x(now) - 34)} ${y(1)}L${Math.max(from, x(now) - 20)} ${y(share)}L${x(now)} ${y(share)}` : `${path}L${x(now)} ${y(1)}`;
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
  const end = Math.max(x(time(line.send_by)!), x(Math.max(now, opens)), last ? x(time(last.end)!) : 0);
  return { drawn, planned: `${path}L${end} ${y(total > 0 ? 0 : share)}` };
}
