import { type MouseEvent, memo, useMemo } from "react";
import { useNavigate } from "react-router";
import type { Horizon, Line } from "../api/client";
import styles from "./Lane.module.css";
import { type Drawn, layLane, type Time } from "./layout";
import { Slab } from "./Slab";
import { type Hover, told } from "./Story";

/** The name of a lane and its rail, which stay while time moves. */
export function LaneName({
  course,
  rail,
  width,
  narrow,
}: {
  course: Horizon["courses"][number];
  rail: number;
  width: number;
  narrow: boolean;
}) {
  return (
    <g>
      <text x={0} y={rail - 22} className={styles.code} data-narrow={narrow}>
        {course.code}
      </text>
      {!narrow && course.title !== course.code && (
        <text x={0} y={rail - 7} className={styles.title}>
          {course.title}
        </text>
      )}
      <line x1={0} x2={width} y1={rail} y2={rail} className={styles.rail} />
    </g>
  );
}

type Props = {
  lines: Line[];
  x: Time;
  now: number;
  rail: number;
  height: number;
  perPixel: number;
  hover: (at?: Hover) => void;
  move: (line: Line, slab: Line["blocks"][number], to: number) => void;
};

/** The lines of one course. */
export const LaneLines = memo(function LaneLines({
  lines,
  x,
  now,
  rail,
  height,
  perPixel,
  hover,
  move,
}: Props) {
  const drawn = useMemo(() => layLane(lines, x, now, rail, height), [lines, x, now, rail, height]);
  return (
    <>
      {drawn.map((d) => (
        <StringLine key={d.line.id} d={d} x={x} rail={rail} hover={hover} />
      ))}
      {drawn.flatMap((d) =>
        d.line.blocks.map((b) => (
          <Slab
            key={`${d.line.id}${b.start}`}
            line={d.line}
            block={b}
            x={x}
            rail={rail}
            perPixel={perPixel}
            move={move}
          />
        )),
      )}
    </>
  );
});

function StringLine({
  d,
  x,
  rail,
  hover,
}: {
  d: Drawn;
  x: Time;
  rail: number;
  hover: (at?: Hover) => void;
}) {
  const navigate = useNavigate();
  const l = d.line;
  const at = (t: string) => x(new Date(t));
  const sent = l.sent_at !== null;
  const over = l.state === "done" || l.state === "closed";
  const open = () => navigate(`/desk/${l.id}`);
  const show = (e: MouseEvent) => {
    const box = e.currentTarget.closest("[data-field]")!.getBoundingClientRect();
    hover({ id: l.id, x: e.clientX - box.left, y: rail });
  };
  return (
    <>
      <g
        className={styles.line}
        data-pressing={l.pressing}
        data-over={over}
        data-line={l.id}
        role="link"
        tabIndex={0}
        aria-label={told(l).join(", ")}
        onClick={open}
        onKeyDown={(e) => e.key === "Enter" && open()}
        onPointerEnter={show}
        onPointerLeave={() => hover(undefined)}
        onFocus={() => hover({ id: l.id, x: at(l.send_by), y: rail })}
        onBlur={() => hover(undefined)}
      >
        <path d={d.drawn + d.planned} className={styles.reach} />
        <Marks l={l} at={at} rail={rail} />
        <path d={d.drawn} className={styles.drawn} />
        <path d={d.planned} className={styles.planned} />
        {d.ring && <circle cx={d.ring.x} cy={d.ring.y} r={3.2} className={styles.ring} />}
        {!sent && (
          <path d={`M${at(l.send_by) - 5} ${rail - 9}h10l-5 9z`} className={styles.notch} />
        )}
        {sent && <circle cx={at(l.sent_at!)} cy={rail} r={4.5} className={styles.dot} />}
        {sent && l.state === "waiting" && (
          <line
            x1={at(l.sent_at!) + 6}
            x2={at(l.report_expected ?? l.due)}
            y1={rail - 2}
            y2={rail - 2}
            className={styles.waiting}
          />
        )}
      </g>
      <g
        className={styles.words}
        data-pressing={l.pressing}
        data-over={over}
        aria-hidden="true"
        onClick={open}
        onPointerEnter={show}
        onPointerLeave={() => hover(undefined)}
      >
        {d.words.map((w) => (
          <text
            key={w.kind + w.text + w.x}
            x={w.x}
            y={w.y}
            className={styles[w.kind]}
            data-waiting={l.state === "waiting"}
          >
            {w.text}
          </text>
        ))}
        {d.label && (
          <text x={d.label.x} y={d.label.y} className={styles.name}>
            {l.title}
          </text>
        )}
      </g>
    </>
  );
}

/** Due, the late stretch and the hard stop, of every part. */
function Marks({ l, at, rail }: { l: Line; at: (t: string) => number; rail: number }) {
  const windows =
    l.parts.length > 0 ? l.parts : [{ name: "", due: l.due, closes: l.closes, sent: false }];
  return (
    <>
      {windows.map((w) => (
        <g key={w.name + w.due} opacity={w.sent ? 0.45 : 1}>
          {w.closes && w.closes !== w.due && (
            <>
              <rect
                x={at(w.due)}
                y={rail - 8}
                width={Math.max(0, at(w.closes) - at(w.due))}
                height={8}
                fill="url(#late)"
              />
              <rect
                x={at(w.closes) - 2.5}
                y={rail - 20}
                width={5}
                height={20}
                className={styles.mark}
              />
            </>
          )}
          <rect
            x={at(w.due) - (l.hard_stop ? 2.5 : 1)}
            y={rail - (l.hard_stop ? 20 : 16)}
            width={l.hard_stop ? 5 : 2}
            height={l.hard_stop ? 20 : 16}
            className={styles.mark}
          />
        </g>
      ))}
    </>
  );
}
