import { useMemo, useRef, useState } from "react";
import { Link, useSearchParams } from "react-router";
import type { Horizon, Line } from "../api/client";
import { useKeys } from "../shared/keys";
import { PunchStrip } from "../shared/PunchStrip";
import { elsewhere, moment, place } from "../shared/time";
import { Bulk } from "./Bulk";
import { Filters } from "./Filters";
import { applies, type Filter, readFilter, writeFilter } from "./filter";
import styles from "./LineList.module.css";
import { words } from "./words";

/** Every assignment, by slack. */
export function LineList({
  lines,
  home,
  views,
  now,
}: {
  lines: Line[];
  home: string;
  views: Horizon["views"];
  now: string;
}) {
  const [query, setQuery] = useSearchParams();
  const filter = readFilter(query);
  const [chosen, setChosen] = useState<Set<number>>(new Set());
  const body = useRef<HTMLTableSectionElement>(null);
  const step = (by: number) => {
    const links = [...(body.current?.querySelectorAll<HTMLAnchorElement>("a") ?? [])];
    links[
      Math.min(
        links.length - 1,
        Math.max(0, links.indexOf(document.activeElement as HTMLAnchorElement) + by),
      )
    ]?.focus();
  };
  const choose = (id: number) =>
    setChosen((old) => {
      const next = new Set(old);
      if (!next.delete(id)) next.add(id);
      return next;
    });
  const current = () => Number((document.activeElement as HTMLElement | null)?.dataset.row);
  useKeys({
    j: () => step(1),
    k: () => step(-1),
    x: () => {
      const id = current();
      if (id) choose(id);
    },
  });
  const shown = lines.filter((l) => applies(filter, l, now, home));
  const courses = useMemo(
    () =>
      [...new Map(lines.map((l) => [l.course_id, l.course])).entries()].sort((a, b) =>
        a[1].localeCompare(b[1]),
      ),
    [lines],
  );
  const set = (f: Filter) => setQuery(writeFilter(f), { replace: true, preventScrollReset: true });
  const taken = shown.filter((l) => chosen.has(l.id));
  return (
    <section className={styles.list} aria-labelledby="list-title">
      <div className={styles.head}>
        <h2 id="list-title">All assignments</h2>
        <Filters filter={filter} set={set} courses={courses} views={views} count={shown.length} />
      </div>
      {taken.length > 0 && <Bulk lines={taken} done={() => setChosen(new Set())} />}
      {shown.length === 0 ? (
        <p className="soft">None of these at the moment.</p>
      ) : (
        <table>
          <thead>
            <tr>
              <th>
                <input
                  type="checkbox"
                  aria-label="Choose all"
                  checked={taken.length === shown.length}
                  onChange={(e) =>
                    setChosen(new Set(e.target.checked ? shown.map((l) => l.id) : []))
                  }
                />
              </th>
              <th>Course</th>
              <th>Assignment</th>
              <th>Stands</th>
              <th>Send by</th>
              <th>Due</th>
              <th>Slack</th>
              <th>Progress</th>
            </tr>
          </thead>
          <tbody ref={body}>
            {shown.map((l) => (
              <Row key={l.id} line={l} home={home} chosen={chosen.has(l.id)} choose={choose} />
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

function Row({
  line: l,
  home,
  chosen,
  choose,
}: {
  line: Line;
  home: string;
  chosen: boolean;
  choose: (id: number) => void;
}) {
  return (
    <tr data-chosen={chosen}>
      <td className={styles.choose}>
        <input
          type="checkbox"
          aria-label={`Choose ${l.title}`}
          checked={chosen}
          onChange={() => choose(l.id)}
        />
      </td>
      <td className={styles.course}>{l.course}</td>
      <td>
        <Link to={`/desk/${l.id}`} data-row={l.id}>
          {l.title}
        </Link>
        {l.part && <span className="soft"> {l.part}</span>}
      </td>
      <td data-state={l.state}>
        {words[l.state]}
        {l.outcome && <span className="soft">, {l.outcome}</span>}
        {l.extension && <span className="soft">, more time {l.extension}</span>}
      </td>
      <td className={styles.time}>
        {l.sent_at ? (
          <span className="soft">sent {moment(l.sent_at, l.zone)}</span>
        ) : (
          moment(l.send_by, l.zone)
        )}
      </td>
      <td className={styles.time}>
        {moment(l.due, l.zone)}{" "}
        <span className="soft">
          {l.zone === home
            ? ""
            : `${place(l.zone)}, ${elsewhere(l.due, l.zone, home) ?? `${place(home)} the same`}`}
        </span>
        {l.due_was && (
          <span className={styles.changed}>changed, was {moment(l.due_was, l.zone)}</span>
        )}
      </td>
      <td className={styles.time}>
        {l.slack}
        {l.miss && <span className={styles.missed}>plan ends {l.miss}</span>}
      </td>
      <td>
        <PunchStrip places={l.strip} />
      </td>
    </tr>
  );
}
