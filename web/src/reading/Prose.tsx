import { Fragment, useMemo } from "react";
import type { Reading } from "../api/client";
import { percent, remedyNames } from "./names";
import { type Passage, paragraphs } from "./segments";
import styles from "./Prose.module.css";

type Props = {
  reading: Reading;
  current?: Passage;
  choose: (p: Passage) => void;
  mark: (p: Passage, how: string) => void;
};

/** The text, with the remedy of each passage in the margin and its source between the lines. */
export function Prose({ reading: r, current, choose, mark }: Props) {
  const list = useMemo(() => paragraphs(r.text, r.passages), [r.text, r.passages]);
  return (
    <div className={styles.prose}>
      {list.map((p, n) => (
        <Fragment key={n}>
          <div className={styles.margin}>
            {p.begins
              .filter((b) => b.excluded !== "small")
              .map((b) => (
                <p key={b.n}>
                  <b>{remedyNames[b.remedy]}</b>
                  {b.excluded === "" ? `${percent(b.share)} of the text` : "does not count"}
                  {b.foreseen !== null &&
                    b.excluded === "" &&
                    (b.foreseen ? ", as you had found" : ", new to you")}
                </p>
              ))}
          </div>
          <p className={styles.text}>
            {p.segments.map((s, i) =>
              s.passage ? (
                <Fragment key={i}>
                  <span
                    id={firstOf(list, s.passage, s) ? `passage-${s.passage.n}` : undefined}
                    className={styles.passage}
                    data-remedy={s.passage.remedy}
                    data-quiet={s.passage.excluded !== ""}
                    data-handled={s.passage.handled !== ""}
                    data-current={s.passage === current}
                    role="button"
                    tabIndex={0}
                    aria-label={`${remedyNames[s.passage.remedy]}: ${s.text}`}
                    onClick={() => choose(s.passage!)}
                    onKeyDown={(e) => {
                      if (e.key === " " || e.key === "Enter") {
                        e.preventDefault();
                        choose(s.passage!);
                      }
                    }}
                  >
                    {s.text}
                  </span>
                  {s.after}
                  {s.last && s.passage === current && <Source passage={s.passage} mark={mark} />}
                </Fragment>
              ) : (
                <Fragment key={i}>{s.text}</Fragment>
              ),
            )}
          </p>
        </Fragment>
      ))}
    </div>
  );
}

function firstOf(list: ReturnType<typeof paragraphs>, p: Passage, segment: unknown): boolean {
  for (const paragraph of list)
    for (const s of paragraph.segments) if (s.passage === p) return s === segment;
  return false;
}

function Source({ passage: p, mark }: { passage: Passage; mark: Props["mark"] }) {
  return (
    <span className={styles.source} data-remedy={p.remedy} role="note">
      <b>{p.source_title}</b>{" "}
      <span className="soft">
        · {Math.round(p.exact * p.words)} of {p.words} words the same
      </span>
      {p.also.length > 0 && (
        <span className="soft" title={p.also.join("\n")}>
          {" "}
          · also in {p.also.length === 1 ? p.also[0] : `${p.also.length} more`}
        </span>
      )}
      <br />… {p.before}
      <span className={styles.match}>{p.match}</span>
      {p.after} …
      <span className={styles.advice}>
        <b>{p.advice}</b>
        <button type="button" onClick={() => mark(p, "fixed")}>
          {p.handled === "fixed" ? "Not fixed after all" : "Mark as fixed"}
        </button>
        <button type="button" onClick={() => mark(p, "not_mine")}>
          {p.handled === "not_mine" ? "Mine after all" : "Not mine to fix"}
        </button>
      </span>
    </span>
  );
}
