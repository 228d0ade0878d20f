import { Button, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { api, ask } from "../../api/client";
import { useAct, useMe } from "../../shared/queries";
import { moment } from "../../shared/time";
import { Look } from "../bench/Look";
import { Controls } from "../Controls";
import { useRecorder, type What } from "../recorder";
import type { ToolProps } from "../work";
import { firstSlot, SlotChoice } from "../SlotChoice";
import styles from "./RecordTool.module.css";
import { keys } from "../../shared/queryKeys";

/** Sound, camera or screen, with something to read from beside it. */
export default function RecordTool({ desk, chosen, bench }: ToolProps) {
  const { id, part_id: part } = desk.line;
  const [what, setWhat] = useState<What>("sound");
  const [slot, setSlot] = useState(firstSlot(desk));
  const recorder = useRecorder(id, part, slot);
  const asked = desk.slots.find((s) => s.name === slot)?.length;
  const idle = recorder.phase === "idle";
  return (
    <>
      {idle && (
        <>
          <SegmentedControl
            aria-label="What to record"
            value={what}
            onChange={(v) => setWhat(v as What)}
            data={[
              { value: "sound", label: "Sound" },
              { value: "camera", label: "Camera" },
              { value: "screen", label: "Screen" },
            ]}
          />
          <SlotChoice desk={desk} label="For" slot={slot} choose={setSlot} />
          {asked && <p className="soft">{asked} are asked for.</p>}
          <Button onClick={() => void recorder.start(what)}>Record</Button>
        </>
      )}
      <Controls recorder={recorder} />
      {recorder.trouble && (
        <p className="must" role="alert">
          {recorder.trouble}
        </p>
      )}
      <BrokenOff desk={desk} />
      {bench &&
        createPortal(
          <div className={styles.stage}>
            {recorder.heard ? (
              what === "sound" ? (
                <audio controls src={recorder.heard} aria-label="What was recorded" />
              ) : (
                <video controls src={recorder.heard} aria-label="What was recorded" />
              )
            ) : (
              recorder.stream && what !== "sound" && <Seen stream={recorder.stream} />
            )}
            {idle && chosen.length === 0 && (
              <p className="soft">
                What is recorded goes up meanwhile: if the page closes or the line breaks, it is not
                lost. Choose a file above to read from it.
              </p>
            )}
            {chosen.length > 0 && <Look chosen={chosen} />}
          </div>,
          bench,
        )}
    </>
  );
}

/** What a camera or screen shows now. */
export function Seen({ stream, mirrored }: { stream: MediaStream; mirrored?: boolean }) {
  const video = useRef<HTMLVideoElement>(null);
  useEffect(() => {
    video.current!.srcObject = stream;
    void video.current!.play().catch(() => {}); // it is stopped before it began
  }, [stream]);
  return (
    <video
      ref={video}
      muted
      playsInline
      aria-label="What is seen now"
      style={mirrored ? { transform: "scaleX(-1)" } : undefined}
    />
  );
}

/** Recordings that broke off: what has arrived of them is there still. */
function BrokenOff({ desk }: { desk: ToolProps["desk"] }) {
  const zone = useMe().data?.zone ?? "UTC";
  const list = useQuery({
    queryKey: keys.recordings,
    queryFn: () => ask(api.GET("/api/recordings")),
  });
  const keep = useAct((r: { upload: string; slot: string }) =>
    ask(
      api.POST("/api/assignments/{id}/recordings", {
        params: { path: { id: desk.line.id } },
        body: { ...r, part: desk.line.part_id },
      }),
    ),
  );
  const mine = (list.data ?? []).filter((r) => r.part === desk.line.part_id);
  if (mine.length === 0) return null;
  return (
    <>
      <h3>Broke off, or in another tab</h3>
      {mine.map((r) => (
        <p key={r.upload}>
          <span className="mono">{r.name}</span>{" "}
          <span className="soft">
            {moment(r.begun, zone)}, {r.bytes}
          </span>{" "}
          <Button variant="subtle" onClick={() => keep.mutate({ upload: r.upload, slot: r.slot })}>
            Keep what there is
          </Button>
        </p>
      ))}
    </>
  );
}
