import { Underlined } from "../shared/Underlined";
import styles from "./AddPage.module.css";
import type { Ask, Draft } from "./kinds";

/** The instructions beside the sheet, with the words underlined that each requirement comes from. */
export function Original({ draft: d, lit }: { draft: Draft; lit?: Ask }) {
  if (!d.instructions) return null;
  return (
    <aside className={styles.original} aria-label="The instructions">
      <h2>The instructions</h2>
      <Underlined
        text={d.instructions}
        lit={lit?.item}
        marks={d.asks.map((a) => ({ ...a.item, label: a.label, text: a.text }))}
      />
    </aside>
  );
}
