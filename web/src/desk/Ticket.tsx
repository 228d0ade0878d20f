import type { Desk } from "../api/client";
import { Hole, placeNames } from "../shared/PunchStrip";
import styles from "./Ticket.module.css";

const parts: Record<string, string> = {
  brief: "brief",
  bundle: "bundle",
  checks: "bundle",
  sent: "sent",
  proof: "attempts",
  return: "attempts",
};

/** The punch strip as a ticket: it shows how far the work is and leads to its parts. */
export function Ticket({ desk }: { desk: Desk }) {
  const l = desk.line;
  const current = l.strip.find((p) => p.state !== "punched")?.place;
  return (
    <nav className={styles.ticket} aria-label="Progress">
      <p className={styles.title}>
        {l.course} · attempt {l.strip_attempt}
        {l.attempts > 0 && ` of ${l.attempts}`}
      </p>
      <p className={styles.worth}>
        {l.points} points · {l.weight} % of the course
      </p>
      {l.strip.map((p) => (
        <a
          key={p.place}
          href={`#${parts[p.place]}`}
          className={styles.row}
          data-current={p.place === current}
        >
          <Hole state={p.state} />
          <span>
            <b>{placeNames[p.place]}</b>
            <span className="unseen"> {p.state}</span>
            <i>{p.note}</i>
          </span>
        </a>
      ))}
    </nav>
  );
}

/** The sum that send-by comes from. */
export function Sum({ lines }: { lines: string[] }) {
  return (
    <div className={styles.sum}>
      <b>How send-by comes about</b>
      {lines.map((s) => (
        <p key={s}>{s}</p>
      ))}
    </div>
  );
}
