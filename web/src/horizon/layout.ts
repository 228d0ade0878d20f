import { type ScaleTime } from "d3-scale";
import type { Line } from "../api/client";

/** Where the parts of one assignment's line stand in its lane, in pixels. */
export type Drawn = {
  line: Line;
  drawn: string; // path up to now
  planned: string; // path from now on, or the whole of it
  ring?: { x: number; y: number };
  label: { x: number; y: number };
};

export const laneHeight = 100;
const top = 34;
const rowHeight = 15;

const time = (at: string | null) => (at === null ? undefined : new Date(at).getTime());

/** Share of the work that is left: 1 is all of it. */
export function left(l: Line): number {
  if (l.effort_minutes === 0) return 0;
  return Math.max(0, 1 - l.done_minutes / l.effort_minutes);
}

/**
 * Lays one lane out: each line starts at opens at the height of all its work and comes down to the rail
 * as the work is planned, falling only where a block stands.
 */
export function layLane(lines: Line[], x: ScaleTime<number, number>, now: number, rail: number): Drawn[] {
  const height = laneHeight - top - 22;
  const edge = x.range()[0]!;
  const rows: number[] = [];
  return [...lines].sort((a, b) => (time(a.opens) ?? 0) - (time(b.opens) ?? 0)).map((line) => {
    const y = (share: number) => rail - share * height;
    const opens = time(line.opens) ?? now;
    const from = Math.max(edge, x(opens));
    const sent = time(line.sent_at);
    let drawn = "";
    let planned = "";
    if (sent !== undefined) {
      // Sent work comes down to the rail where it was sent.
      const at = x(sent);
      if (at > edge) drawn = `M${from} ${y(0.45)}L${at} ${rail}`;
    } else {
      let share = left(line);
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
      planned = `${path}L${Math.max(x(time(line.send_by)!), x(Math.max(now, opens)))} ${y(total > 0 ? 0 : share)}`;
    }
    const labelX = Math.max(edge, from) + 7;
    const width = line.title.length * 6.4 + 12;
    let row = rows.findIndex((end) => end < labelX);
    if (row < 0) row = rows.length;
    rows[row] = labelX + width;
    const ring = sent === undefined && x(opens) >= edge ? { x: x(opens), y: y(1) } : undefined;
    return { line, drawn, planned, ring, label: { x: labelX, y: rail - height - 8 - row * rowHeight } };
  });
}
