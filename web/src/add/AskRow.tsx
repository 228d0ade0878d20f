import { Button, TextInput } from "@mantine/core";
import { type FormEvent, useState } from "react";
import { api, ask as fetchAnswer } from "../api/client";
import { MadeName } from "../shared/MadeName";
import { WhenInput } from "../shared/WhenInput";
import { useAct } from "../shared/queries";
import { type Ask, isTime, kinds } from "./kinds";
import styles from "./Sheet.module.css";

const from: Record<Ask["from"], string> = {
  site: "site",
  yours: "yours",
  course: "usual here",
  read: "read",
};

type Props = {
  ask: Ask;
  course: number;
  set: (ask: Ask) => void;
  drop: () => void;
  light: (on: boolean) => void;
};

/** One requirement: what was understood, and what can be done about it. */
export function AskRow({ ask: a, course, set, drop, light }: Props) {
  const [editing, setEditing] = useState(false);
  return (
    <li
      className={styles.ask}
      data-settled={a.settled}
      onPointerEnter={() => light(true)}
      onPointerLeave={() => light(false)}
    >
      <span className={styles.label}>{a.label}</span>
      <div>
        {editing ? (
          <Correction
            kind={a.item.kind}
            course={course}
            start={a}
            done={(next) => {
              setEditing(false);
              if (next) set(next);
            }}
          />
        ) : (
          <p>
            {a.item.kind === "name" ? (
              <MadeName course={course || undefined} pattern={a.text} />
            ) : (
              a.text
            )}
          </p>
        )}
      </div>
      {!editing && (
        <div className={styles.acts}>
          {a.settled ? (
            <span className="soft">{from[a.from] === "read" ? "confirmed" : from[a.from]}</span>
          ) : (
            <Button variant="default" onClick={() => set({ ...a, settled: true })}>
              Confirm
            </Button>
          )}
          <Button variant="subtle" onClick={() => setEditing(true)}>
            Change
          </Button>
          <Button variant="subtle" onClick={drop}>
            Leave out
          </Button>
        </div>
      )}
    </li>
  );
}

type CorrectionProps = { kind: string; course: number; start?: Ask; done: (ask?: Ask) => void };

/** A requirement written in words, or for times in a date field, and read by the server. */
export function Correction({ kind, course, start, done }: CorrectionProps) {
  const time = isTime(kind);
  const [words, setWords] = useState(
    start
      ? time || kind === "name"
        ? String(start.item.value)
        : start.thing
          ? start.text.slice(start.thing.length + 2)
          : start.text
      : "",
  );
  const [thing, setThing] = useState(start?.thing ?? "");
  const read = useAct((text: string) =>
    fetchAnswer(api.POST("/api/drafts/ask", { body: { course_id: course, kind, words: text } })),
  );
  const submit = (e: FormEvent) => {
    e.preventDefault();
    read.mutate(words, {
      onSuccess: (answer) => {
        const next = answer as Ask;
        const text = thing ? `${thing}: ${next.text}` : next.text;
        // It still comes from the sentence that it corrects.
        done({
          ...next,
          thing,
          text,
          sentence: start?.sentence ?? "",
          item: start ? { ...next.item, start: start.item.start, end: start.item.end } : next.item,
        });
      },
    });
  };
  return (
    <form onSubmit={submit} className={styles.correct}>
      {time ? (
        <WhenInput
          aria-label={kind}
          value={words}
          onChange={setWords}
          required
          autoFocus={start !== undefined}
        />
      ) : (
        <TextInput
          aria-label={kind || "anything"}
          value={words}
          placeholder={
            kinds.find((k) => k.kind === kind)?.example ??
            "at most 10 MB; three attempts; late work loses 10% per day"
          }
          onChange={(e) => setWords(e.target.value)}
          required
          autoFocus={start !== undefined}
          classNames={{ input: kind === "name" ? "mono" : "" }}
        />
      )}
      {time && (
        <TextInput
          aria-label="Part that it is of"
          placeholder="part, if there are several"
          value={thing}
          onChange={(e) => setThing(e.target.value)}
        />
      )}
      <Button type="submit" variant="default" loading={read.isPending}>
        {start ? "Change" : "Add"}
      </Button>
      {start && (
        <Button variant="subtle" onClick={() => done()}>
          Cancel
        </Button>
      )}
    </form>
  );
}
