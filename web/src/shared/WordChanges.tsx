import type { Schemas } from "../api/client";
import styles from "./WordChanges.module.css";

/** What changed in the words of a text, word by word. */
export function WordChanges({ changes: c, title }: { changes: Schemas["Changes"]; title: string }) {
  return (
    <details className={styles.changes}>
      <summary>
        {title}: {c.removed} words out, {c.added} words in, {c.same} kept
      </summary>
      {c.changes.map((x, n) => (
        <p key={n}>
          {x.around && <span className="soft">… {x.around} </span>}
          {x.before && <del>{x.before}</del>} {x.after && <ins>{x.after}</ins>}
        </p>
      ))}
    </details>
  );
}
