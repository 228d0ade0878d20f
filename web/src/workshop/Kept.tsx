import { Button } from "@mantine/core";
import type { useWriting } from "./writing";

/** Whether what was written is kept. */
export function Kept({ writing }: { writing: ReturnType<typeof useWriting> }) {
  if (writing.trouble)
    return (
      <p className="must" role="alert">
        {writing.trouble}{" "}
        {writing.elsewhere && (
          <Button variant="subtle" onClick={() => void writing.reread()}>
            Read the other’s
          </Button>
        )}
      </p>
    );
  return (
    <p className="soft" role="status">
      {writing.stands === "kept" ? "Kept." : "Being kept…"}
    </p>
  );
}
