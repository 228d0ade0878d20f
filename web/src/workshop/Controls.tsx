import { Button } from "@mantine/core";
import { Level } from "./Level";
import type { useRecorder } from "./recorder";
import { size } from "../shared/size";

const clock = (s: number) => `${Math.floor(s / 60)}:${String(Math.floor(s % 60)).padStart(2, "0")}`;

/** The buttons of a recording that goes on or has ended, its length, its level. */
export function Controls({ recorder: r }: { recorder: ReturnType<typeof useRecorder> }) {
  if (r.phase === "idle") return null;
  return (
    <>
      <p className="figures" role="status">
        <b>{clock(r.seconds)}</b>{" "}
        <span className="soft">
          {r.phase === "paused" ? "paused, " : ""}
          {size(r.sent)} are safe
        </span>
      </p>
      {r.phase !== "ended" && r.stream && <Level stream={r.stream} />}
      {r.phase === "recording" && (
        <Button variant="default" onClick={r.pause}>
          Pause
        </Button>
      )}
      {r.phase === "paused" && (
        <Button variant="default" onClick={r.goOn}>
          Go on
        </Button>
      )}
      {r.phase !== "ended" && <Button onClick={r.stop}>Stop</Button>}
      {r.phase === "ended" && (
        <>
          <Button loading={r.keeping} onClick={() => void r.take()}>
            Put it into the bundle
          </Button>
          <Button variant="subtle" onClick={r.drop}>
            Throw it away
          </Button>
        </>
      )}
    </>
  );
}
