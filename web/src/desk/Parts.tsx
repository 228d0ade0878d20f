import { Link } from "react-router";
import type { Line } from "../api/client";
import { moment } from "../shared/time";
import page from "./DeskPage.module.css";
import styles from "./Parts.module.css";

/** The parts of an assignment, each with its window. */
export function Parts({ line: l }: { line: Line }) {
  if (l.parts.length === 0) return null;
  const opens = l.parts.some((p) => p.opens);
  const closes = l.parts.some((p) => p.closes);
  return (
    <section className={page.part} aria-label="Parts">
      <table className={styles.parts}>
        <thead>
          <tr>
            <th>Part</th>
            {opens && <th>Opens</th>}
            <th>Due</th>
            {closes && <th>Closes</th>}
            <th>
              <span className="unseen">State</span>
            </th>
          </tr>
        </thead>
        <tbody>
          {l.parts.map((p) => (
            <tr key={p.id} data-next={p.id === l.part_id}>
              <td>
                {p.id === l.part_id ? (
                  <b aria-current="true">{p.name}</b>
                ) : (
                  <Link to={`/desk/${l.id}?part=${p.id}`}>{p.name}</Link>
                )}
              </td>
              {opens && (
                <td>{p.opens ? moment(p.opens, l.zone) : <span className="soft">open</span>}</td>
              )}
              <td>{moment(p.due, l.zone)}</td>
              {closes && <td>{p.closes ? moment(p.closes, l.zone) : ""}</td>}
              <td className="soft">{p.sent && "sent"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
