import { Button, Checkbox, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useDebouncedValue } from "@mantine/hooks";
import { useMemo, useState } from "react";
import { createPortal } from "react-dom";
import { api, ask } from "../../api/client";
import Editor from "../editor/Editor";
import { used } from "../editor/pictures";
import { Kept } from "../Kept";
import { filesOf, type ToolProps } from "../work";
import { useWriting } from "../writing";
import { SlotChoice } from "../SlotChoice";
import { keys } from "../../shared/queryKeys";

/** An answer, written as it will be set, with its words counted against the brief. */
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
  const [heading, setHeading] = useState(true);
  const files = useMemo(() => filesOf(desk), [desk]);
  const [still] = useDebouncedValue(text, 300);
  const laid = useQuery({
    queryKey: keys.typed(id, part, slot, still),
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
      {laid.data && form !== "txt" && form !== "md" && (
        <>
          <Checkbox
            label="With title, course and name at its head"
            checked={heading}
            onChange={(e) => setHeading(e.target.checked)}
          />
          <p className="soft">Set in {laid.data.set}.</p>
        </>
      )}
      <Kept writing={writing} />
      <Button
        loading={busy}
        disabled={text.trim() === ""}
        onClick={() => begin("type", { text, form, name, slot, heading }, used(files, text))}
      >
        Make a file of it
      </Button>
      {bench &&
        writing.body !== undefined &&
        createPortal(
          <Editor
            text={text}
            change={writing.change}
            files={files}
            page={laid.data?.page}
            heading={heading}
          />,
          bench,
        )}
    </>
  );
}
