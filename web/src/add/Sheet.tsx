import { Button, NativeSelect, TextInput } from "@mantine/core";
import { Fragment, type ReactNode, useState } from "react";
import { AskRow, Correction } from "./AskRow";
import { CourseChoice } from "./CourseChoice";
import { type Ask, type Draft, kinds } from "./kinds";
import { Questions } from "./Questions";
import styles from "./Sheet.module.css";

type Props = {
  draft: Draft;
  set: (d: Draft) => void;
  light: (ask?: Ask) => void;
  children: ReactNode;
};

/** An assignment as the student puts it down, requirement by requirement. */
export function Sheet({ draft: d, set, light, children }: Props) {
  const [adding, setAdding] = useState("");
  const open = d.asks.filter((a) => !a.settled);
  const plain = open.filter((a) => !a.singly);
  const put = (n: number, asks: Ask[]) =>
    set({ ...d, asks: [...d.asks.slice(0, n), ...asks, ...d.asks.slice(n + 1)] });
  return (
    <section className={styles.sheet} aria-label="The assignment">
      <div className={styles.fields}>
        <TextInput
          label="Title"
          value={d.title}
          onChange={(e) => set({ ...d, title: e.target.value })}
          required
        />
        <CourseChoice
          value={d.course_id}
          proposed={d.new_course}
          set={(course_id) => set({ ...d, course_id })}
        />
        <Amount
          label="Weight, % of the course"
          value={d.weight}
          set={(weight) => set({ ...d, weight })}
        />
        <Amount
          label="Work, hours"
          value={d.minutes / 60}
          set={(h) => set({ ...d, minutes: Math.round(h * 60) })}
        />
      </div>
      <div className={styles.head}>
        <h2>What it asks for</h2>
        {plain.length > 1 && (
          <Button
            variant="default"
            onClick={() =>
              set({
                ...d,
                asks: d.asks.map((a) => (plain.includes(a) ? { ...a, settled: true } : a)),
              })
            }
          >
            Confirm all {plain.length}
            {open.length > plain.length && " but the times"}
          </Button>
        )}
      </div>
      <Questions draft={d} set={set} />
      <ul className={styles.asks}>
        {d.asks.map((a, n) => (
          <Fragment key={`${n}${a.item.kind}${a.text}`}>
            {a.sentence !== (d.asks[n - 1]?.sentence ?? "") && (
              <li className={styles.source}>
                {a.sentence ? `“${a.sentence}”` : "not from the instructions:"}
              </li>
            )}
            <AskRow
              ask={a}
              course={d.course_id}
              set={(next) => put(n, [next])}
              drop={() => {
                put(n, []);
                light(undefined);
              }}
              light={(on) => light(on ? a : undefined)}
            />
          </Fragment>
        ))}
      </ul>
      {!d.asks.some((a) => a.item.kind === "due") && (
        <p className="must">A due time is missing. Add it below.</p>
      )}
      <div className={styles.ask}>
        <NativeSelect
          aria-label="Add a requirement"
          value={adding}
          onChange={(e) => setAdding(e.target.value)}
          data={[
            { value: "", label: "anything" },
            ...kinds.map((k) => ({ value: k.kind, label: k.label })),
          ]}
        />
        <Correction
          key={adding + d.asks.length}
          kind={adding}
          course={d.course_id}
          done={(next) => {
            if (next) {
              setAdding("");
              set({ ...d, asks: [...d.asks, next] });
            }
          }}
        />
      </div>
      <p className={styles.more}>
        {!d.asks.some((a) => a.item.kind === "due") && adding !== "due" && (
          <Button variant="default" onClick={() => setAdding("due")}>
            Add the due time
          </Button>
        )}
        <span className="soft">
          Write a requirement as instructions would. Several due times, each with the name of its
          part, make parts with windows of their own.
        </span>
      </p>
      <div className={styles.foot}>
        {children}
        {open.length > 0 && (
          <span className="soft">
            {open.length} not confirmed yet; that can also be done later, at its Desk.
          </span>
        )}
      </div>
    </section>
  );
}

/** A number that may be left empty for 0. */
function Amount({ label, value, set }: { label: string; value: number; set: (n: number) => void }) {
  const [text, setText] = useState(value ? String(Math.round(value * 100) / 100) : "");
  const number = Number(text.replace(",", "."));
  return (
    <TextInput
      label={label}
      inputMode="decimal"
      value={text}
      error={!(number >= 0)}
      onChange={(e) => {
        setText(e.target.value);
        const n = Number(e.target.value.replace(",", "."));
        if (n >= 0) set(n);
      }}
    />
  );
}
