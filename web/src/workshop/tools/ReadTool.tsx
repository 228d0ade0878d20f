import { Button } from "@mantine/core";
import type { ToolProps } from "../work";

/** A text layer over scanned pages. */
export default function ReadTool({ begin, busy }: ToolProps) {
  return (
    <>
      <p className="soft">
        What can be read in English, Portuguese and Italian is laid invisibly over the pages. They
        look as before.
      </p>
      <Button loading={busy} onClick={() => begin("searchable", {})}>
        Make it searchable
      </Button>
    </>
  );
}
