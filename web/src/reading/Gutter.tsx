import { useWindowScroll } from "@mantine/hooks";
import type { Reading } from "../api/client";
import { remedyNames } from "./names";
import patterns from "./patterns.module.css";
import styles from "./Gutter.module.css";
import type { Passage } from "./segments";

/** The whole text as a strip with its patterns; a press goes to the passage. */
export function Gutter({
  reading: r,
  current,
  go,
}: {
  reading: Reading;
  current?: Passage;
  go: (p: Passage) => void;
}) {
  const [scroll] = useWindowScroll();
  const whole = Math.max(1, document.documentElement.scrollHeight);
  const view = {
    top: `${(100 * scroll.y) / whole}%`,
    height: `${Math.min(100, (100 * window.innerHeight) / whole)}%`,
  };
  return (
    <div className={styles.gutter} aria-label="The whole text" role="group">
      <span className={styles.view} style={view} />
      {r.passages.map((p) => (
        <button
          key={p.n}
          type="button"
          className={patterns.fill}
          data-remedy={p.remedy}
          data-excluded={p.excluded !== "" && p.remedy !== "own"}
          data-current={p === current}
          title={remedyNames[p.remedy]}
          aria-label={`${remedyNames[p.remedy]}, at ${Math.round((100 * p.start) / r.length)} % of the text`}
          style={{
            top: `${(100 * p.start) / r.length}%`,
            height: `max(5px, ${(100 * (p.end - p.start)) / r.length}%)`,
          }}
          onClick={() => go(p)}
        />
      ))}
    </div>
  );
}
