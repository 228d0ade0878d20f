import { Button } from "@mantine/core";
import type { Desk } from "../api/client";
import { Controls } from "./Controls";
import { useRecorder } from "./recorder";

/** A spoken explanation beside what is written: a sound file of its own, which goes with it only if it is wished for. */
export function Microphone({ desk, slot }: { desk: Desk; slot: string }) {
  const recorder = useRecorder(desk.line.id, desk.line.part_id, slot);
  return (
    <details>
      <summary>Speak while you write</summary>
      <div style={{ display: "flex", flexDirection: "column", gap: 8, paddingTop: 8 }}>
        {recorder.phase === "idle" && (
          <Button variant="default" onClick={() => void recorder.start("sound")}>
            Record
          </Button>
        )}
        <Controls recorder={recorder} />
        {recorder.heard && (
          <audio
            controls
            src={recorder.heard}
            aria-label="What was recorded"
            style={{ width: "100%" }}
          />
        )}
        {recorder.trouble && <p className="must">{recorder.trouble}</p>}
      </div>
    </details>
  );
}
