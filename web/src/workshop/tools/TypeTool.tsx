import { Button, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useDebouncedValue } from "@mantine/hooks";
import { useState } from "react";
import { createPortal } from "react-dom";
import { api, ask } from "../../api/client";
import { Kept } from "../Kept";
import type { ToolProps } from "../work";
import { useWriting } from "../writing";
import { SlotChoice } from "../SlotChoice";
import styles from "./TypeTool.module.css";

/** An answer in Markdown, seen as it will look, with its words counted against the brief. */
export default function TypeTool({ desk, begin, busy, bench }: ToolProps) {
  const { id, part_id: part } = desk.line;
  const writing = useWriting(id, part, 0);
  const text = writing.body ?? "";
  const [slot, setSlot] = useState(desk.slots[0]?.name ?? "");
  const asked = desk.slots.find((s) => s.name === slot)?.forms ?? [];
  const [form, setForm] = useState(
    ["docx", "pdf", "txt", "md"].find((f) => asked.includes(f)) ?? "pdf",
  );
  const [name, setName] = useState(desk.line.title);
  const [still] = useDebouncedValue(text, 300);
  const laid = useQuery({
    queryKey: ["typed", id, part, slot, still],
    queryFn: () =>
      ask(
        api.POST("/api/assignments/{id}/typed", {
          params: { path: { id } },
          body: { part, slot, text: still },
        }),
      ),
    placeholderData: (before) => before,
  });
  return (
    <>
      {laid.data && <p className={laid.data.short ? "should" : undefined}>{laid.data.says}.</p>}
      <SlotChoice desk={desk} label="For" slot={slot} choose={setSlot} />
      <TextInput label="Name of the file" value={name} onChange={(e) => setName(e.target.value)} />
      <NativeSelect
        label="As"
        value={form}
        onChange={(e) => setForm(e.target.value)}
        data={["pdf", "docx", "txt", "md"].map((f) => ({
          value: f,
          label: f.toUpperCase() + (asked.includes(f) ? ", as is asked for" : ""),
        }))}
      />
      <Kept writing={writing} />
      <Button
        loading={busy}
        disabled={text.trim() === ""}
        onClick={() => begin("type", { text, form, name }, [])}
      >
        Make a file of it
      </Button>
      {bench &&
        createPortal(
          <div className={styles.both}>
            <Textarea
              label="Your answer, in Markdown"
              autosize
              minRows={18}
              value={text}
              disabled={writing.body === undefined}
              onChange={(e) => writing.change(e.target.value)}
            />
            <div>
              <p className={styles.caption}>As it will look</p>
              {/* The server leaves nothing in it that runs or is fetched. */}
              <div
                className={styles.paper}
                dangerouslySetInnerHTML={{ __html: laid.data?.html ?? "" }}
              />
            </div>
          </div>,
          bench,
        )}
    </>
  );
}
