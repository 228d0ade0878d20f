import { SegmentedControl } from "@mantine/core";
import { useElementSize } from "@mantine/hooks";
import { useCallback, useMemo, useState } from "react";
import type { Horizon, Line } from "../api/client";
import { useTrial } from "../shared/trial";
import { Axis, Now } from "./Axis";
import styles from "./Chart.module.css";
import { LaneLines, LaneName } from "./Lane";
import { happens, laneHeight } from "./layout";
import { Legend } from "./Legend";
import { type Hover, Story } from "./Story";
import { day, type Span, spans, useView } from "./view";

const head = 22;
const titles: Record<Span, string> = {
  "48 hours": "48 hours",
  "two weeks": "Two weeks",
  term: "The term",
};

/** The string-line chart: a lane per course, a line per assignment, time along the top. */
export function Chart({ horizon }: { horizon: Horizon }) {
  const { ref, width } = useElementSize();
  const names = width < 560 ? 62 : 92;
  const now = new Date(horizon.now).getTime();
  const view = useView(now, width, names);
  const [hover, setHover] = useState<Hover>();
  const trial = useTrial();
  const { x } = view;
  const [all, setAll] = useState(false);
  const [from, to] = x.domain().map((d) => d.getTime()) as [number, number];
  const busy = useMemo(
    () => new Set(horizon.lines.filter((l) => happens(l, from, to)).map((l) => l.course_id)),
    [horizon.lines, from, to],
  );
  // In a short stretch most courses rest: their lanes are folded.
  const folds = view.span === "48 hours" && !all;
  const lanes = folds ? horizon.courses.filter((c) => busy.has(c.id)) : horizon.courses;
  const quiet = horizon.courses.filter((c) => !lanes.includes(c));
  const lane = laneHeight(lanes.length);
  const bottom = head + lanes.length * lane;
  const height = bottom + 24;
  const lines = useMemo(() => perCourse(horizon.lines, from, to), [horizon.lines, from, to]);
  const { shift } = trial;
  const move = useCallback(
    (l: Line, slab: Line["blocks"][number], to: number) => {
      shift({
        assignment_id: l.id,
        start: slab.start,
        end: slab.end,
        to: new Date(to).toISOString(),
      });
    },
    [shift],
  );
  const told = hover && horizon.lines.find((l) => l.id === hover.id);
  return (
    <section className={styles.chart} aria-labelledby="horizon-title">
      <div className={styles.head}>
        <h1 id="horizon-title">
          {view.moved
            ? titles[view.span]
            : `Next ${titles[view.span].toLowerCase().replace("the ", "")}`}
        </h1>
        <p className="soft">{trial.tried?.summary ?? horizon.summary}</p>
        <div className={styles.zoom}>
          <button
            type="button"
            className={styles.back}
            aria-label="Earlier"
            onClick={() => view.step(-0.25)}
          >
            ‹
          </button>
          {view.moved && (
            <button type="button" className={styles.back} onClick={view.home}>
              now
            </button>
          )}
          <button
            type="button"
            className={styles.back}
            aria-label="Later"
            onClick={() => view.step(0.25)}
          >
            ›
          </button>
          <SegmentedControl
            aria-label="Stretch of time"
            size="xs"
            data={Object.keys(spans)}
            value={view.span}
            onChange={(v) => view.choose(v as Span)}
          />
        </div>
      </div>
      <div ref={ref} className={styles.field} data-field>
        {width > 0 && (
          <>
            <div
              ref={view.field}
              className={styles.window}
              style={{ left: names - 6, height }}
              {...view.handlers}
              onPointerLeave={() => setHover(undefined)}
              role="group"
              aria-label="Assignments over time"
            >
              {/* Three views wide, so that it can be moved as a whole without being drawn anew. */}
              <svg
                ref={view.content}
                className={styles.moving}
                width={3 * view.pixels}
                height={height}
                style={{ left: 6 - view.pixels }}
                viewBox={`${names - view.pixels} 0 ${3 * view.pixels} ${height}`}
              >
                <defs>
                  <pattern
                    id="late"
                    width={6}
                    height={6}
                    patternUnits="userSpaceOnUse"
                    patternTransform="rotate(45)"
                  >
                    <line y2={6} className={styles.hatch} />
                  </pattern>
                </defs>
                <Axis
                  x={x}
                  zone={horizon.zone}
                  now={horizon.now}
                  crowds={horizon.crowds}
                  top={head}
                  bottom={bottom}
                  days={spans[view.span]}
                />
                {lanes.map((c, i) => (
                  <LaneLines
                    key={c.id}
                    lines={lines.get(c.id) ?? none}
                    x={x}
                    now={now}
                    rail={head + (i + 1) * lane - 12}
                    height={lane}
                    perPixel={view.perPixel}
                    hover={setHover}
                    move={move}
                  />
                ))}
                <Now x={x} now={horizon.now} zone={horizon.zone} top={head} bottom={bottom} />
              </svg>
            </div>
            <svg width={width} height={height} className={styles.names}>
              {lanes.map((c, i) => (
                <LaneName
                  key={c.id}
                  course={c}
                  rail={head + (i + 1) * lane - 12}
                  width={width}
                  narrow={names < 90}
                />
              ))}
            </svg>
          </>
        )}
        {told && hover && (
          <Story line={told} home={horizon.zone} at={hover} width={width} height={height} />
        )}
      </div>
      {(quiet.length > 0 || (all && view.span === "48 hours")) && (
        <p className={styles.quiet}>
          {quiet.length > 0 && `Nothing happens here in ${quiet.map((c) => c.code).join(", ")}. `}
          <button type="button" className={styles.back} onClick={() => setAll(!all)}>
            {all ? "Fold the lanes that rest" : "Show all lanes"}
          </button>
        </p>
      )}
      <Legend />
    </section>
  );
}

const none: Line[] = [];

/** The lines by course that stand in the view or one view's width beside it. */
function perCourse(lines: Line[], from: number, to: number): Map<number, Line[]> {
  const span = to - from;
  const out = new Map<number, Line[]>();
  for (const l of lines) {
    const ends = Math.max(
      ...[l.due, l.closes, l.sent_at, l.report_expected, l.blocks.at(-1)?.end].map((t) =>
        t ? new Date(t).getTime() : 0,
      ),
    );
    const begins = new Date(l.opens ?? l.sent_at ?? l.due).getTime();
    if (
      ends < from - span ||
      begins > to + span ||
      (l.opens === null && l.sent_at === null && ends < from - day)
    )
      continue;
    const list = out.get(l.course_id) ?? [];
    list.push(l);
    out.set(l.course_id, list);
  }
  return out;
}
