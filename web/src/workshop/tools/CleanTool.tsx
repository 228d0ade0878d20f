import { Button, Checkbox } from "@mantine/core";
import { useState } from "react";
import type { ToolProps } from "../work";

const kinds = {
  tracked_changes: "tracked changes",
  comments: "comments",
  author: "names of authors",
  position: "where it was taken",
  hidden_text: "hidden text",
  macros: "macros",
  attachments: "attached files",
  form_fields: "form fields",
  metadata: "other data about the file",
};

/** What readers are not meant to see goes; what goes is named before it is taken over. */
export default function CleanTool({ begin, busy }: ToolProps) {
  const [keep, setKeep] = useState<string[]>([]);
  return (
    <>
      <p className="soft">
        Takes out what is ticked. Everything that goes is listed before you use the result.
      </p>
      {Object.entries(kinds).map(([kind, text]) => (
        <Checkbox
          key={kind}
          label={text}
          checked={!keep.includes(kind)}
          onChange={(e) =>
            setKeep((k) => (e.currentTarget.checked ? k.filter((x) => x !== kind) : [...k, kind]))
          }
        />
      ))}
      <Button loading={busy} onClick={() => begin("clean", { keep })}>
        Clean a copy
      </Button>
    </>
  );
}
