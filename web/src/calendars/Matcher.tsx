import { NativeSelect } from "@mantine/core";
import { useState } from "react";
import type { Preview } from "../api/client";
import styles from "./CalendarsPage.module.css";

const names = ["title", "course", "due", "opens", "closes", "points", "zone"];

/** Which column of a table is which, with its first rows. */
export function Matcher({
  preview: p,
  match,
}: {
  preview: Preview;
  match: (columns: string[]) => void;
}) {
  const [columns, setColumns] = useState(p.columns);
  const choose = (n: number, as: string) => {
    const next = p.header.map((_, i) =>
      i === n ? as : columns[i] === as ? "" : (columns[i] ?? ""),
    );
    setColumns(next); // shown at once; what follows from it comes a little later
    match(next);
  };
  return (
    <div className={styles.wide}>
      <h2>Which column is which</h2>
      <table>
        <thead>
          <tr>
            {p.header.map((h, n) => (
              <th key={`${h}${n}`}>{h}</th>
            ))}
          </tr>
          <tr>
            {p.header.map((h, n) => (
              <th key={`${h}${n}`}>
                <NativeSelect
                  aria-label={`Column ${h} is`}
                  value={columns[n] ?? ""}
                  data={[{ value: "", label: "leave out" }, ...names]}
                  onChange={(e) => choose(n, e.target.value)}
                />
              </th>
            ))}
          </tr>
        </thead>
        <tbody>
          {p.rows.map((r, n) => (
            <tr key={n}>
              {p.header.map((h, i) => (
                <td key={`${h}${i}`} data-out={!columns[i]}>
                  {r[i]}
                </td>
              ))}
            </tr>
          ))}
        </tbody>
      </table>
    </div>
  );
}
