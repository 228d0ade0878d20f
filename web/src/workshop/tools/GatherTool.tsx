import { Button, Textarea, TextInput } from "@mantine/core";
import { createPortal } from "react-dom";
import { Kept } from "../Kept";
import type { ToolProps } from "../work";
import { useWriting } from "../writing";
import styles from "./GatherTool.module.css";

type Heading = { title: string; text: string };
type Notes = Record<number, Heading>; // by version

const headings = -1; // the writing in which they are kept

/** Several pieces of evidence in one PDF, each under its heading with what is said of it; written over weeks. */
export default function GatherTool({ desk, chosen, begin, busy, bench }: ToolProps) {
  const { id, part_id: part, title } = desk.line;
  const writing = useWriting(id, part, headings);
  const notes: Notes = writing.body ? (JSON.parse(writing.body) as Notes) : {};
  const of = (version: number): Heading => notes[version] ?? { title: "", text: "" };
  const change = (version: number, what: Partial<Heading>) =>
    writing.change(JSON.stringify({ ...notes, [version]: { ...of(version), ...what } }));
  const bare = chosen.filter((c) => of(c.version).title.trim() === "");
  const empty = desk.slots.filter((s) => s.required && !s.full).map((s) => s.name);
  return (
    <>
      <p className={bare.length > 0 ? "should" : "soft"}>
        {bare.length > 0
          ? `${bare.length} of ${chosen.length} have no heading yet.`
          : chosen.length === 1
            ? "One piece. Choose more, in the order in which they are to stand."
            : `${chosen.length} pieces, in the order of their numbers.`}
      </p>
      {empty.length > 0 && <p className="soft">Still missing in the bundle: {empty.join(", ")}.</p>}
      <Kept writing={writing} />
      <Button
        loading={busy}
        disabled={bare.length > 0}
        onClick={() => begin("gather", { name: title, headings: chosen.map((c) => of(c.version)) })}
      >
        Make one PDF
      </Button>
      {bench &&
        createPortal(
          <ol className={styles.pieces}>
            {chosen.map((c) => (
              <li key={c.version}>
                <p className="mono">{c.name}</p>
                <TextInput
                  label="Heading"
                  value={of(c.version).title}
                  disabled={writing.body === undefined}
                  onChange={(e) => change(c.version, { title: e.target.value })}
                />
                <Textarea
                  label="What it shows"
                  autosize
                  minRows={2}
                  value={of(c.version).text}
                  disabled={writing.body === undefined}
                  onChange={(e) => change(c.version, { text: e.target.value })}
                />
              </li>
            ))}
          </ol>,
          bench,
        )}
    </>
  );
}
