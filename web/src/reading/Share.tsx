import type { Reading } from "../api/client";
import { percent, remedyNames } from "./names";
import patterns from "./patterns.module.css";
import styles from "./Share.module.css";

/** The share as a bar of patterns, with what was left out and why. */
export function Share({ reading: r }: { reading: Reading }) {
  const parts = r.remedies;
  return (
    <div className={styles.share}>
      <strong className={styles.big}>{Math.round(100 * r.share)} %</strong>
      <div>
        <div
          className={styles.bar}
          role="img"
          aria-label={
            parts.map((p) => `${remedyNames[p.remedy]} ${percent(p.share)}`).join(", ") ||
            "no passages"
          }
        >
          {parts.map((p) => (
            <span
              key={p.remedy + p.counts}
              className={patterns.fill}
              data-remedy={p.remedy}
              style={{ width: `${100 * p.share}%` }}
              title={`${remedyNames[p.remedy]}: ${percent(p.share)}`}
            />
          ))}
        </div>
        <p className={styles.said}>
          {r.share > 0 ? "needs a decision" : "nothing needs a decision"}, of{" "}
          {r.length.toLocaleString("en-GB")} characters
          {r.share_was !== null && <>; it was {Math.round(100 * r.share_was)} %</>}.
          {r.left_out.length > 0 && ` Left out: ${r.left_out.join(", ")}.`}
        </p>
      </div>
    </div>
  );
}
