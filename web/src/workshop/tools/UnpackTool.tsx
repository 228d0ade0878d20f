import { Button } from "@mantine/core";
import type { ToolProps } from "../work";

/** The files out of a ZIP, to be chosen from. */
export default function UnpackTool({ begin, busy }: ToolProps) {
  return (
    <>
      <p className="soft">
        Work on the files, not on their copies in the ZIP. Nothing is put outside of where it
        belongs.
      </p>
      <Button loading={busy} onClick={() => begin("unpack", {})}>
        Unpack
      </Button>
    </>
  );
}
