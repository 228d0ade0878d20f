import { SegmentedControl } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { scaleTime } from "d3-scale";
import { type PointerEvent, useMemo, useRef, useState } from "react";
import type { Horizon } from "../api/client";
import { clock, date, isWeekend, midnights } from "../shared/time";
import styles from "./Chart.module.css";
import { Lane } from "./Lane";
import { laneHeight } from "./layout";

const day = 864e5;
const spans = { "48 hours": 2, "two weeks": 14, term: 60 } as const;
type Span = keyof typeof spans;
const names = 92; // width of the lanes' names
const head = 22;

/** The string-line chart: a lane per course, a line per assignment, time along the top. */
export function Chart({ horizon }: { horizon: Horizon }) {
  const { ref, width } = useElementSize();
  const [span, setSpan] = useState<Span>("two weeks");
  const [moved, setMoved] = useState(0); // days
  const now = new Date(horizon.now).getTime();
  const days = spans[span];
  const zone = horizon.zone;
  const x = useMemo(() => {
    const start = now - days * day * 0.11 + moved * day;
    return scaleTime().domain([new Date(start), new Date(start + days * day)]).range([names, Math.max(names + 1, width - 8)]);
  }, [now, days, moved, width]);
  const [from, to] = x.domain() as [Date, Date];
  const bottom = head + horizon.courses.length * laneHeight;
  const every = Math.max(1, Math.ceil(days / Math.max(1, (width - names) / 50)));

  const drag = useRef<{ at: number; moved: number }>(undefined);
  const grab = (e: PointerEvent<SVGSVGElement>) => { drag.current = { at: e.clientX, moved }; };
  const pull = (e: PointerEvent<SVGSVGElement>) => {
    if (!drag.current || e.buttons === 0) { drag.current = undefined; return; }
    setMoved(drag.current.moved - ((e.clientX - drag.current.at) / (width - names)) * days);
  };
  const inView = (t: number) => t >= from.getTime() && t <= to.getTime();

  return (
    <section className={styles.chart} aria-labelledby="horizon-title">
      <div className={styles.head}>
        <h1 id="horizon-title">{span === "two weeks" ? "Next two weeks" : span === "term" ? "The term" : "Next 48 hours"}</h1>
        <p className="soft">{horizon.summary}</p>
        <div className={styles.zoom}>
          {moved !== 0 && <button type="button" className={styles.back} onClick={() => setMoved(0)}>back to now</button>}
          <SegmentedControl aria-label="Stretch of time" size="xs" data={Object.keys(spans)} value={span} onChange={(v) => { setSpan(v as Span); setMoved(0); }} />
        </div>
      </div>
      <div ref={ref} className={styles.field}>
        {width > 0 && (
          <svg width={width} height={bottom + 24} onPointerDown={grab} onPointerMove={pull} className={styles.svg} role="group" aria-label="Assignments over time">
            <defs>
              <pattern id="late" width={6} height={6} patternUnits="userSpaceOnUse" patternTransform="rotate(45)"><line y2={6} className={styles.hatch} /></pattern>
              <clipPath id="field"><rect x={names - 6} y={0} width={Math.max(0, width - names + 6)} height={bottom + 24} /></clipPath>
            </defs>
            <g clipPath="url(#field)">
              {midnights(new Date(from.getTime() - day), to, zone).map((d, i) => (
                <g key={d.getTime()}>
                  {isWeekend(d, zone) && <rect x={x(d)} y={head} width={x(new Date(d.getTime() + day)) - x(d)} height={bottom - head} className={styles.weekend} />}
                  <line x1={x(d)} x2={x(d)} y1={head} y2={bottom} className={styles.day} />
                  {i % every === 0 && x(d) >= names && <text x={x(d) + 4} y={15} className={styles.date} data-today={date(d, zone) === date(horizon.now, zone)}>{dayName(d, zone, days)}</text>}
                </g>
              ))}
              {horizon.crowds.map((c) => (
                <g key={c.start}>
                  <rect x={x(new Date(c.start)) - 4} y={head} width={Math.max(14, x(new Date(c.end)) - x(new Date(c.start)) + 8)} height={bottom - head} className={styles.crowd} />
                  <text x={x(new Date(c.start)) + 6} y={bottom + 15} textAnchor="middle" className={styles.crowdText}>{c.text}</text>
                </g>
              ))}
            </g>
            {horizon.courses.map((c, i) => (
              <Lane key={c.id} course={c} lines={horizon.lines.filter((l) => l.course_id === c.id)} x={x} now={now} rail={head + (i + 1) * laneHeight - 12} width={width} />
            ))}
            {inView(now) && (
              <g className={styles.now}>
                <line x1={x(new Date(now))} x2={x(new Date(now))} y1={head} y2={bottom + 4} />
                <rect x={x(new Date(now)) - 20} y={bottom + 4} width={40} height={17} />
                <text x={x(new Date(now))} y={bottom + 17} textAnchor="middle">{clock(horizon.now, zone)}</text>
              </g>
            )}
          </svg>
        )}
      </div>
      <p className={styles.legend}>
        <svg viewBox="0 0 12 10" aria-hidden><path d="M1 1h10l-5 8z" /></svg> send by
        <svg viewBox="0 0 4 14" aria-hidden><path d="M1 0h2v14h-2z" /></svg> due
        <svg viewBox="0 0 6 14" aria-hidden><path d="M0 0h6v14h-6z" /></svg> nothing taken after
        <svg viewBox="0 0 22 7" aria-hidden className={styles.slab}><path d="M0 0h22v7h-22z" /></svg> planned work
      </p>
    </section>
  );
}

function dayName(d: Date, zone: string, days: number): string {
  const name = date(d, zone);
  return days <= 14 ? name.split(" ").slice(0, 2).join(" ") : name.split(" ").slice(1).join(" ");
}
