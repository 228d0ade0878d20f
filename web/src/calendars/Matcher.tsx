import { NativeSelect } from "@mantine/core";
import type { Preview } from "./CalendarsPage";
import styles from "./CalendarsPage.module.css";

const columns = ["title", "course", "due", "opens", "closes", "points", "zone"];

/** Which column of a table is which, with its first rows. */
export function Matcher({ preview: p, match }: { preview: Preview; match: (columns: string[]) => void }) {
  return (
    <div className={styles.wide}>
      <h2>Which column is which</h2>
      <table>
        <thead>
          <tr>{p.header.map((h, n) => <th key={`${h}${n}`}>{h}</th>)}</tr>
          <tr>
            {p.header.map((h, n) => (
              <th key={`${h}${n}`}>
                <NativeSelect aria-label={`Column ${h} is`} value={p.columns[n] ?? ""} data={[{ value: "", label: "leave out" }, ...columns]}
                  onChange={(e) => match(p.header.map((_, i) => (i === n ? e.target.value : p.columns[i] === e.target.value ? "" : p.columns[i] ?? "")))} />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>{p.rows.map((r, n) => <tr key={n}>{p.header.map((h, i) => <td key={`${h}${i}`} data-out={!p.columns[i]}>{r[i]}</td>)}</tr>)}</tbody>
      </table>
    </div>
  );
}
