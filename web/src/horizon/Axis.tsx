import type { Horizon } from "../api/client";
import { clock, date, isWeekend, midnights } from "../shared/time";
import styles from "./Chart.module.css";
import type { Time } from "./layout";
import { day } from "./view";

type Props = {
  x: Time;
  zone: string;
  now: string;
  crowds: Horizon["crowds"];
  top: number;
  bottom: number;
  days: number;
};

/** Days, weekends and crowded hours, drawn a view's width beyond both edges so that it can be moved. */
export function Axis({ x, zone, now, crowds, top, bottom, days }: Props) {
  const [from, to] = x.domain() as [Date, Date];
  const length = to.getTime() - from.getTime();
  const [left, right] = x.range() as [number, number];
  const every = Math.max(1, Math.ceil(days / Math.max(1, (right - left) / 50)));
  const all = midnights(new Date(from.getTime() - length), new Date(to.getTime() + length), zone);
  const hours =
    days <= 2
      ? Array.from(
          { length: 3 * days * 4 },
          (_, i) => new Date(Math.floor(from.getTime() / 216e5) * 216e5 - length + i * 216e5),
        )
      : [];
  return (
    <>
      {all.map((d) => (
        <g key={d.getTime()}>
          {isWeekend(d, zone) && (
            <rect
              x={x(d)}
              y={top}
              width={x(new Date(d.getTime() + day)) - x(d)}
              height={bottom - top}
              className={styles.weekend}
            />
          )}
          <line x1={x(d)} x2={x(d)} y1={top} y2={bottom} className={styles.day} />
          {Math.round(d.getTime() / day) % every === 0 && (
            <text
              x={x(d) + 4}
              y={15}
              className={styles.date}
              data-today={date(d, zone) === date(now, zone)}
            >
              {name(d, zone, days)}
            </text>
          )}
        </g>
      ))}
      {hours.map(
        (h) =>
          clock(h, zone) !== "00:00" && (
            <text key={h.getTime()} x={x(h) + 4} y={15} className={styles.date}>
              {clock(h, zone)}
            </text>
          ),
      )}
      {crowds.map((c) => (
        <g key={c.start}>
          <rect
            x={x(new Date(c.start)) - 4}
            y={top}
            width={Math.max(14, x(new Date(c.end)) - x(new Date(c.start)) + 8)}
            height={bottom - top}
            className={styles.crowd}
          />
          <text
            x={x(new Date(c.start)) + 6}
            y={bottom + 15}
            textAnchor="middle"
            className={styles.crowdText}
          >
            {c.text}
          </text>
        </g>
      ))}
    </>
  );
}

/** The line of now. */
export function Now({
  x,
  now,
  zone,
  top,
  bottom,
}: {
  x: Time;
  now: string;
  zone: string;
  top: number;
  bottom: number;
}) {
  const at = x(new Date(now));
  return (
    <g className={styles.now}>
      <line x1={at} x2={at} y1={top} y2={bottom + 4} />
      <rect x={at - 20} y={bottom + 4} width={40} height={17} />
      <text x={at} y={bottom + 17} textAnchor="middle">
        {clock(now, zone)}
      </text>
    </g>
  );
}

function name(d: Date, zone: string, days: number): string {
  const words = date(d, zone).split(" ");
  return days <= 14 ? words.slice(0, 2).join(" ") : words.slice(1).join(" ");
}
