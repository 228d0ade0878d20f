import type { Line } from "../api/client";
import { moment } from "../shared/time";
import page from "./DeskPage.module.css";
import styles from "./Parts.module.css";

/** The parts of an assignment, each with its window. */
export function Parts({ line: l }: { line: Line }) {
  if (l.parts.length === 0) return null;
  return (
    <section className={page.part} aria-label="Parts">
      <table className={styles.parts}>
        <thead><tr><th>Part</th><th>Opens</th><th>Due</th><th>Closes</th><td /></tr></thead>
        <tbody>
          {l.parts.map((p) => (
            <tr key={p.name} data-next={p.name === l.part && !p.sent}>
              <td>{p.name}</td><td>{p.opens ? moment(p.opens, l.zone) : <span className="soft">open</span>}</td><td>{moment(p.due, l.zone)}</td><td>{p.closes ? moment(p.closes, l.zone) : ""}</td>
              <td className="soft">{p.sent ? "noted as sent" : p.name === l.part ? "comes next" : ""}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
