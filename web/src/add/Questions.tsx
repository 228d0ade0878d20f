import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask as fetchAnswer } from "../api/client";
import { useAct } from "../shared/queries";
import type { Ask, Draft } from "./kinds";
import styles from "./Sheet.module.css";

/** What the instructions leave open, to be answered in words. */
export function Questions({ draft: d, set }: { draft: Draft; set: (d: Draft) => void }) {
  if (d.questions.length === 0) return null;
  const without = (n: number) => d.questions.filter((_, i) => i !== n);
  return (
    <ul className={styles.asks} aria-label="Left open">
      {d.questions.map((q, n) => (
        <Question
          key={q.text + q.start}
          question={q}
          course={d.course_id}
          drop={() => set({ ...d, questions: without(n) })}
          answer={(a) =>
            set({
              ...d,
              questions: without(n),
              asks: [
                ...d.asks,
                {
                  ...a,
                  sentence: q.sentence,
                  item: { ...a.item, start: q.start, end: d.instructions ? q.end : q.start },
                },
              ],
            })
          }
        />
      ))}
    </ul>
  );
}

type Props = {
  question: Draft["questions"][number];
  course: number;
  drop: () => void;
  answer: (a: Ask) => void;
};

function Question({ question: q, course, drop, answer }: Props) {
  const [words, setWords] = useState("");
  const read = useAct(() =>
    fetchAnswer(api.POST("/api/drafts/ask", { body: { course_id: course, kind: "", words } })),
  );
  return (
    <li className={styles.ask} data-question>
      <span className={styles.label}>left open</span>
      <form
        onSubmit={(e) => {
          e.preventDefault();
          read.mutate(undefined, { onSuccess: (a) => answer(a as Ask) });
        }}
      >
        <p>{q.text}</p>
        <p className={styles.sentence}>“{q.sentence}”</p>
        <div className={styles.correct}>
          <TextInput
            aria-label={q.text}
            placeholder="Fri 11 December, 23:59"
            value={words}
            onChange={(e) => setWords(e.target.value)}
            required
          />
          <Button type="submit" variant="default" loading={read.isPending}>
            Answer
          </Button>
          <Button variant="subtle" onClick={drop}>
            Leave it open
          </Button>
        </div>
      </form>
    </li>
  );
}
