import styles from "./Underlined.module.css";

type Mark = { start: number; end: number; label: string; text: string };

/** Instructions with the words underlined that something was read from. Offsets count code points. */
export function Underlined({
  text,
  marks,
  lit,
}: {
  text: string;
  marks: Mark[];
  lit?: { start: number; end: number };
}) {
  const letters = [...text];
  const edges = [...new Set([0, letters.length, ...marks.flatMap((m) => [m.start, m.end])])]
    .filter((n) => n <= letters.length)
    .sort((a, b) => a - b);
  return (
    <div className={styles.text}>
      {edges.slice(0, -1).map((from, i) => {
        const piece = letters.slice(from, edges[i + 1]).join("");
        const by = marks.filter((m) => m.start <= from && from < m.end);
        if (by.length === 0) return piece;
        const on = lit && lit.end > lit.start && lit.start <= from && from < lit.end;
        return (
          <mark
            key={from}
            data-lit={on || undefined}
            title={by.map((m) => `${m.label}: ${m.text}`).join("\n")}
          >
            {piece}
          </mark>
        );
      })}
    </div>
  );
}
