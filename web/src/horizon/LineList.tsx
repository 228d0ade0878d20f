import { SegmentedControl } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { useRef, useState } from "react";
import { Link } from "react-router";
import type { Line } from "../api/client";
import { PunchStrip } from "../shared/PunchStrip";
import { elsewhere, moment, place } from "../shared/time";
import styles from "./LineList.module.css";

const words: Record<Line["state"], string> = {
  not_open: "not open yet", open: "open", late: "late", closed: "closed, nothing sent", sending: "on its way", waiting: "waiting", back: "came back", done: "done",
};
const groups: Record<string, Line["state"][]> = {
  "to do": ["open", "late", "not_open", "sending"], waiting: ["waiting"], "came back": ["back"], past: ["done", "closed"], all: Object.keys(words) as Line["state"][],
};

/** Every assignment, by slack. */
export function LineList({ lines, home }: { lines: Line[]; home: string }) {
  const [group, setGroup] = useState("all");
  const body = useRef<HTMLTableSectionElement>(null);
  const step = (by: number) => {
    const links = [...(body.current?.querySelectorAll<HTMLAnchorElement>("a") ?? [])];
    links[Math.min(links.length - 1, Math.max(0, links.indexOf(document.activeElement as HTMLAnchorElement) + by))]?.focus();
  };
  useHotkeys([["j", () => step(1)], ["k", () => step(-1)]]);
  const shown = lines.filter((l) => groups[group]!.includes(l.state));
  return (
    <section className={styles.list} aria-labelledby="list-title">
      <div className={styles.head}>
        <h2 id="list-title">All assignments</h2>
        <SegmentedControl aria-label="Which" size="xs" data={Object.keys(groups)} value={group} onChange={setGroup} />
      </div>
      {shown.length === 0 ? <p className="soft">None of these at the moment.</p> : (
        <table>
          <thead><tr><th>Course</th><th>Assignment</th><th>Stands</th><th>Send by</th><th>Due</th><th>Slack</th><th>Progress</th></tr></thead>
          <tbody ref={body}>
            {shown.map((l) => (
              <tr key={l.id}>
                <td className={styles.course}>{l.course}</td>
                <td><Link to={`/desk/${l.id}`}>{l.title}</Link></td>
                <td data-state={l.state}>{words[l.state]}{l.outcome && <span className="soft">, {l.outcome}</span>}</td>
                <td className={styles.time}>{l.sent_at ? <span className="soft">sent {moment(l.sent_at, l.zone)}</span> : moment(l.send_by, l.zone)}</td>
                <td className={styles.time}>
                  {moment(l.due, l.zone)} <span className="soft">{l.zone === home ? "" : `${place(l.zone)}, ${elsewhere(l.due, l.zone, home) ?? `${place(home)} the same`}`}</span>
                  {l.due_was && <span className={styles.changed}>changed, was {moment(l.due_was, l.zone)}</span>}
                </td>
                <td className={styles.time}>{l.slack}</td>
                <td><PunchStrip places={l.strip} /></td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}
