import type { Line } from "../api/client";
import { elsewhere, moment, place } from "../shared/time";
import { PunchStrip } from "../shared/PunchStrip";
import styles from "./Story.module.css";
import { words } from "./words";

export type Hover = { id: number; x: number; y: number };

const hours = (minutes: number) => `${Math.round(minutes / 6) / 10} h`;

/** Everything about one assignment, in short lines. */
export function told(l: Line): string[] {
  return [
    `${l.course} ${l.title}`,
    words[l.state] + (l.outcome && `, ${l.outcome}`),
    l.sent_at ? `sent ${moment(l.sent_at, l.zone)}` : `send by ${moment(l.send_by, l.zone)}`,
    `due ${moment(l.due, l.zone)}`,
    l.hard_stop ? "nothing is taken late" : l.price,
    l.slack && `slack ${l.slack}`,
    l.miss && `planned to be finished ${l.miss}`,
  ].filter(Boolean);
}

/** The full story of the assignment under the pointer. */
export function Story({
  line: l,
  home,
  at,
  width,
  height,
}: {
  line: Line;
  home: string;
  at: Hover;
  width: number;
  height: number;
}) {
  const both = (t: string) => (
    <>
      {moment(t, l.zone)}
      {l.zone !== home && (
        <span className="soft">
          {" "}
          {place(l.zone)}, {elsewhere(t, l.zone, home) ?? `${place(home)} the same`}
        </span>
      )}
    </>
  );
  const row = (name: string, what: React.ReactNode) => (
    <div>
      <dt>{name}</dt>
      <dd>{what}</dd>
    </div>
  );
  const wide = 300;
  return (
    <div
      className={styles.story}
      role="tooltip"
      style={{
        left: Math.max(0, Math.min(at.x + 14, width - wide)),
        width: wide,
        ...(at.y > height * 0.55 ? { bottom: height - at.y + 90 } : { top: at.y + 18 }),
      }}
    >
      <b>
        {l.course} {l.title}
      </b>
      <dl>
        {row(
          "stands",
          <>
            {words[l.state]}
            {l.outcome && `, ${l.outcome}`}
          </>,
        )}
        {l.opens && l.state === "not_open" && row("opens", both(l.opens))}
        {l.sent_at ? row("sent", both(l.sent_at)) : row("send by", both(l.send_by))}
        {l.parts.length > 0
          ? l.parts.map((p) =>
              row(
                p.name,
                <>
                  {both(p.due)}
                  {p.sent && ", sent"}
                </>,
              ),
            )
          : row(
              "due",
              <>
                {both(l.due)}
                {l.extension === "granted" && <span className="soft"> extended</span>}
              </>,
            )}
        {l.hard_stop
          ? row("late", "nothing is taken")
          : row(
              "late",
              <>
                {l.price}
                {l.closes && <> until {moment(l.closes, l.zone)}</>}
              </>,
            )}
        {!l.sent_at && row("work", `${hours(l.done_minutes)} of ${hours(l.plan_minutes)} done`)}
        {l.slack && row("slack", l.slack)}
        {l.miss && row("plan", <span className="must">finished {l.miss}</span>)}
        {row("worth", `${l.points} points, ${l.weight} % of the course`)}
      </dl>
      <PunchStrip places={l.strip} />
    </div>
  );
}
