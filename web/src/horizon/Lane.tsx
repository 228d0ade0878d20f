import type { ScaleTime } from "d3-scale";
import { useNavigate } from "react-router";
import type { Horizon, Line } from "../api/client";
import { clock, moment } from "../shared/time";
import styles from "./Lane.module.css";
import { type Drawn, layLane } from "./layout";

type Props = { course: Horizon["courses"][number]; lines: Line[]; x: ScaleTime<number, number>; now: number; rail: number; width: number };

export function Lane({ course, lines, x, now, rail, width }: Props) {
  const edge = x.range()[0]!;
  const end = x.domain()[1]!.getTime();
  const shown = lines.filter((l) => {
    const last = Math.max(new Date(l.due).getTime(), new Date(l.closes ?? l.due).getTime());
    return x(new Date(last)) > edge && new Date(l.opens ?? l.due).getTime() < end;
  });
  return (
    <g>
      <text x={0} y={rail - 22} className={styles.code}>{course.code}</text>
      <text x={0} y={rail - 7} className={styles.title}>{course.title}</text>
      <line x1={0} x2={width} y1={rail} y2={rail} className={styles.rail} />
      <g clipPath="url(#field)">{layLane(shown, x, now, rail).map((d) => <StringLine key={d.line.id} d={d} x={x} rail={rail} />)}</g>
    </g>
  );
}

function StringLine({ d, x, rail }: { d: Drawn; x: ScaleTime<number, number>; rail: number }) {
  const navigate = useNavigate();
  const l = d.line;
  const edge = x.range()[0]!;
  const at = (t: string) => x(new Date(t));
  const sent = l.sent_at !== null;
  const over = l.state === "done" || l.state === "closed";
  const story = [
    `${l.course} ${l.title}`, sent ? `sent ${moment(l.sent_at!, l.zone)}${l.outcome && `, ${l.outcome}`}` : `send by ${moment(l.send_by, l.zone)}`,
    `due ${moment(l.due, l.zone)}`, l.hard_stop ? "nothing is taken late" : l.price, l.slack && `slack ${l.slack}`,
  ].filter(Boolean).join("\n");
  const open = () => navigate(`/desk/${l.id}`);
  return (
    <>
      <g className={styles.line} data-pressing={l.pressing} data-over={over} role="link" tabIndex={0} aria-label={story.replaceAll("\n", ", ")}
        onClick={open} onKeyDown={(e) => e.key === "Enter" && open()}>
        <title>{story}</title>
        {l.closes && <>
          <rect x={at(l.due)} y={rail - 8} width={Math.max(0, at(l.closes) - at(l.due))} height={8} fill="url(#late)" />
          <rect x={at(l.closes) - 2.5} y={rail - 20} width={5} height={20} className={styles.mark} />
        </>}
        <rect x={at(l.due) - (l.hard_stop ? 2.5 : 1)} y={rail - (l.hard_stop ? 20 : 16)} width={l.hard_stop ? 5 : 2} height={l.hard_stop ? 20 : 16} className={styles.mark} />
        <path d={d.drawn} className={styles.drawn} />
        <path d={d.planned} className={styles.planned} />
        {d.ring && <circle cx={d.ring.x} cy={d.ring.y} r={3.2} className={styles.ring} />}
        {l.blocks.map((b) => <rect key={b.start} x={at(b.start)} y={rail + 1.5} width={Math.max(2, at(b.end) - at(b.start))} height={6} className={styles.slab} />)}
        {!sent && <path d={`M${at(l.send_by) - 5} ${rail - 9}h10l-5 9z`} className={styles.notch} />}
        {sent && <circle cx={at(l.sent_at!)} cy={rail} r={4.5} className={styles.dot} />}
        {sent && l.state === "waiting" && <line x1={at(l.sent_at!) + 6} x2={at(l.report_expected ?? l.due)} y1={rail - 2} y2={rail - 2} className={styles.waiting} />}
      </g>
      <g className={styles.words} data-pressing={l.pressing} data-over={over} aria-hidden="true" onClick={open}>
        {l.closes && !sent && <text x={at(l.due) + 6} y={rail - 12} className={styles.price}>{l.price}</text>}
        {sent && at(l.sent_at!) > edge && (
          <text x={at(l.sent_at!) + 9} y={rail - 7} className={styles.outcome} data-waiting={l.state === "waiting"}>
            {l.report_expected ? `report expected ${clock(l.report_expected, l.zone)}` : l.outcome || "waiting for a mark"}
          </text>
        )}
        <text x={d.label.x} y={d.label.y} className={styles.name}>{l.title}</text>
      </g>
    </>
  );
}
