import { Button } from "@mantine/core";
import { useEffect, useMemo, useRef, useState } from "react";
import { api, ask as fetchAnswer } from "../api/client";
import { useAct } from "../shared/queries";
import { Underlined } from "../shared/Underlined";
import styles from "./AddPage.module.css";
import { type Ask, type Draft, kinds } from "./kinds";
import { type Chosen, chosenIn, words } from "./selection";

type Props = {
  draft: Draft;
  lit?: Ask;
  /** Adds what was said of words that the reader had missed. */
  add: (ask: Ask) => void;
};

/**
 * The instructions beside the sheet, with the words underlined that each requirement comes from. What was missed is
 * chosen there, by mouse, finger or arrow keys, and named with one press.
 */
export function Original({ draft: d, lit, add }: Props) {
  const box = useRef<HTMLDivElement>(null);
  const [chosen, setChosen] = useState<Chosen>();
  const list = useMemo(() => words(d.instructions), [d.instructions]);
  useEffect(() => {
    const look = () => {
      const found = box.current && chosenIn(box.current, document.getSelection());
      if (found) setChosen(found);
    };
    document.addEventListener("selectionchange", look);
    return () => document.removeEventListener("selectionchange", look);
  }, []);
  const said = [...d.instructions].slice(chosen?.start, chosen?.end).join("").trim();
  const read = useAct((kind: string) =>
    fetchAnswer(
      api.POST("/api/drafts/ask", { body: { course_id: d.course_id, kind, words: said } }),
    ),
  );
  const name = (kind: string) =>
    chosen &&
    read.mutate(kind, {
      onSuccess: (answer) => {
        const a = answer as Ask;
        add({ ...a, sentence: said, item: { ...a.item, start: chosen.start, end: chosen.end } });
        setChosen(undefined);
        document.getSelection()?.removeAllRanges();
      },
    });
  // Arrows move by words, with Shift they extend.
  const move = (by: number, extend: boolean) => {
    const at = list.findIndex((w) => w.end > (chosen?.start ?? 0));
    const last = list.findIndex((w) => w.end >= (chosen?.end ?? 0));
    const first = Math.max(0, at);
    const to = Math.max(
      0,
      Math.min(list.length - 1, (chosen ? (extend ? last : first) : -by) + by),
    );
    const start = extend && chosen ? first : to;
    if (list[start] && list[to])
      setChosen({ start: list[Math.min(start, to)]!.start, end: list[Math.max(start, to)]!.end });
  };
  if (!d.instructions) return null;
  return (
    <aside className={styles.original} aria-label="The instructions">
      <h2>The instructions</h2>
      {/* A text in which words can be chosen, as in a field that cannot be written in. */}
      {/* eslint-disable-next-line jsx-a11y/no-noninteractive-element-interactions */}
      <div
        ref={box}
        className={styles.choosing}
        tabIndex={0} // eslint-disable-line jsx-a11y/no-noninteractive-tabindex
        role="group"
        aria-label="The instructions; arrow keys choose words, Shift extends"
        onKeyDown={(e) => {
          const by = { ArrowRight: 1, ArrowLeft: -1 }[e.key];
          if (by) {
            e.preventDefault();
            move(by, e.shiftKey);
          } else if (e.key === "Escape") setChosen(undefined);
        }}
      >
        <Underlined
          text={d.instructions}
          lit={lit?.item ?? chosen}
          marks={[
            ...d.asks.map((a) => ({ ...a.item, label: a.label, text: a.text })),
            ...(chosen ? [{ ...chosen, label: "chosen", text: said }] : []),
          ]}
        />
      </div>
      {chosen && said ? (
        <div className={styles.naming} role="group" aria-label="What the chosen words say">
          <p>
            “{said.length > 90 ? `${said.slice(0, 88)}…` : said}”{" "}
            <span className="soft">says:</span>
          </p>
          {kinds.map((k) => (
            <Button
              key={k.kind}
              variant="default"
              disabled={read.isPending}
              // The press must not take the selection away before it is read.
              onPointerDown={(e) => e.preventDefault()}
              onClick={() => name(k.kind)}
            >
              {k.label}
            </Button>
          ))}
          <Button variant="subtle" onClick={() => setChosen(undefined)}>
            Nothing
          </Button>
        </div>
      ) : (
        <p className="soft">Something is missing? Select its words and say what they are.</p>
      )}
    </aside>
  );
}
