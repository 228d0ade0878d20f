import { useElementSize } from "@mantine/hooks";
import { useNavigate } from "react-router";
import type { Line } from "../api/client";
import { useHorizon } from "./queries";
import styles from "./Ribbon.module.css";
import { date, midnights, moment } from "./time";

const days = 10;
const dayLength = 864e5;

/** The strip of the next ten days that never leaves the screen: a notch for every send-by and due time. */
export function Ribbon() {
  const { ref, width } = useElementSize();
  const horizon = useHorizon().data;
  const navigate = useNavigate();
  const from = horizon ? new Date(horizon.now).getTime() : Date.now();
  const x = (at: string | Date) =>
    20 + ((new Date(at).getTime() - from) / (days * dayLength)) * (width - 40);
  const inside = (at: string) => {
    const t = new Date(at).getTime();
    return t >= from && t < from + days * dayLength;
  };
  const open = (horizon?.lines ?? []).filter((l) =>
    ["open", "late", "not_open", "back"].includes(l.state),
  );
  const notch = (l: Line, at: string, what: string, shape: "send" | "due") => (
    <g
      key={`${l.id}${shape}`}
      role="link"
      tabIndex={0}
      aria-label={`${l.course} ${l.title}: ${what} ${moment(at, l.zone)}`}
      className={styles.notch}
      onClick={() => navigate(`/desk/${l.id}`)}
      onKeyDown={(e) => e.key === "Enter" && navigate(`/desk/${l.id}`)}
    >
      <title>{`${l.course} ${l.title}: ${what} ${moment(at, l.zone)}`}</title>
      <rect x={x(at) - 7} y={14} width={14} height={22} fill="transparent" />
      {shape === "send" ? (
        <path d={`M${x(at) - 5} 22h10l-5 8z`} data-near={l.pressing} />
      ) : (
        <rect
          x={x(at) - (l.hard_stop ? 2.5 : 1.25)}
          y={18}
          width={l.hard_stop ? 5 : 2.5}
          height={18}
        />
      )}
    </g>
  );
  const ahead = horizon
    ? midnights(new Date(from), new Date(from + days * dayLength), horizon.zone)
    : [];
  return (
    <div ref={ref} className={styles.ribbon}>
      {horizon && width > 0 && (
        <svg width={width} height={36} role="group" aria-label="The next ten days">
          {ahead.map((d) => (
            <g key={d.getTime()}>
              <line x1={x(d)} x2={x(d)} y1={0} y2={36} className={styles.day} />
              {x(d) < width - 62 &&
                (width > 700 || Math.round((d.getTime() - from) / dayLength) % 3 === 1) && (
                  <text x={x(d) + 5} y={13}>
                    {date(d, horizon.zone)}
                  </text>
                )}
            </g>
          ))}
          <rect x={18.5} y={0} width={3} height={36} className={styles.now} />
          {!ahead.some((d) => x(d) < 50) && (
            <text x={25} y={13}>
              now
            </text>
          )}
          {open.flatMap((l) => [
            inside(l.send_by) && l.state !== "back" ? notch(l, l.send_by, "send by", "send") : null,
            inside(l.due) ? notch(l, l.due, "due", "due") : null,
          ])}
        </svg>
      )}
    </div>
  );
}
