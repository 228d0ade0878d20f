import type { Reading } from "../api/client";
import { percent, remedyNames } from "./names";
import patterns from "./patterns.module.css";
import styles from "./Share.module.css";

const order = ["rewrite", "quote", "cite", "own", "leave"] as const;

/** The share as a bar of patterns, with what was left out and why. */
export function Share({ reading: r }: { reading: Reading }) {
  const parts = order
    .map((remedy) => ({
      remedy,
      counts: remedy !== "own" && remedy !== "leave",
      share: r.passages
        .filter(
          (p) =>
            p.remedy === remedy && (p.excluded === "" || remedy === "own" || remedy === "leave"),
        )
        .reduce((sum, p) => sum + p.share, 0),
    }))
    .filter((p) => p.share > 0);
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
              key={p.remedy}
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
