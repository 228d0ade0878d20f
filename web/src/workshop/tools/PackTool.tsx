import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import type { ToolProps } from "../work";

/** Several files in one ZIP. */
export default function PackTool({ desk, chosen, begin, busy }: ToolProps) {
  const [name, setName] = useState(`${desk.course.code.replace(/\s+/g, "")}_${desk.line.title}`);
  return (
    <>
      <TextInput label="Name of the ZIP" value={name} onChange={(e) => setName(e.target.value)} />
      <Button loading={busy} onClick={() => begin("pack", { name })}>
        Pack {chosen.length === 1 ? "1 file" : `${chosen.length} files`}
      </Button>
    </>
  );
}
