import { Button, Checkbox, SegmentedControl } from "@mantine/core";
import { useEffect, useRef, useState } from "react";
import { createPortal } from "react-dom";
import { useUploads } from "../../desk/uploads";
import { Sending } from "../../desk/Sending";
import { type Shot, Still, still } from "../bench/Still";
import { dated } from "../../shared/dated";
import { refusal } from "../recorder";
import type { ToolProps } from "../work";
import { firstSlot, SlotChoice } from "../SlotChoice";
import styles from "./RecordTool.module.css";
import { Seen } from "./RecordTool";

/** A still of the screen, a window or what is held before the camera: cropped, marked, and under a name with its date. */
export default function CaptureTool({ desk, open: openTool, bench }: ToolProps) {
  const [from, setFrom] = useState("screen");
  const [square, setSquare] = useState(false);
  const [mirrored, setMirrored] = useState(false);
  const [stream, setStream] = useState<MediaStream>();
  const [shot, setShot] = useState<Shot>();
  const [pen, setPen] = useState<"crop" | "arrow" | "frame">("crop");
  const [trouble, setTrouble] = useState("");
  const [slot, setSlot] = useState(firstSlot(desk));
  const uploads = useUploads(desk.line.id, desk.line.part_id);
  useEffect(() => () => stream?.getTracks().forEach((t) => t.stop()), [stream]);
  const open = async () => {
    setTrouble("");
    setShot(undefined);
    try {
      setStream(
        from === "screen"
          ? await navigator.mediaDevices.getDisplayMedia({ video: true })
          : await navigator.mediaDevices.getUserMedia({
              video: { width: { ideal: 3840 }, height: { ideal: 2160 } },
            }),
      );
    } catch (error) {
      setTrouble(refusal(error));
    }
  };
  const take = async () => {
    setShot(await still(stream!, square, from === "camera" && mirrored));
    setStream(undefined);
  };
  // A photograph goes on to Scan as soon as it lies in the bundle.
  const [onward, setOnward] = useState("");
  const there = desk.items.find((i) => onward !== "" && i.original === onward)?.version_id;
  const go = useRef(openTool);
  useEffect(() => {
    go.current = openTool;
  });
  useEffect(() => {
    if (there) go.current("scan", there);
  }, [there]);
  const keep = (finished: Shot, scan: boolean) => {
    const code = desk.course.code.replace(/\s+/g, "");
    const kind = from === "camera" ? "jpg" : "png";
    finished.blob(kind === "jpg" ? "image/jpeg" : "image/png", (blob) => {
      const name = dated(`${code}_${slot || "capture"}`, kind);
      uploads.start([new File([blob], name)], slot);
      if (scan) setOnward(name);
      setShot(undefined);
    });
  };
  return (
    <>
      <SegmentedControl
        aria-label="What to capture"
        value={from}
        onChange={(v) => {
          setFrom(v);
          setStream(undefined);
        }}
        data={[
          { value: "screen", label: "Screen or window" },
          { value: "camera", label: "Camera" },
        ]}
      />
      <Checkbox
        label="Square"
        checked={square}
        onChange={(e) => setSquare(e.currentTarget.checked)}
      />
      {from === "camera" && (
        <Checkbox
          label="Mirrored"
          checked={mirrored}
          onChange={(e) => setMirrored(e.currentTarget.checked)}
        />
      )}
      {!stream && !shot && <Button onClick={() => void open()}>Choose what is seen</Button>}
      {stream && <Button onClick={() => void take()}>Take it</Button>}
      {shot && (
        <>
          <SegmentedControl
            aria-label="What to do with it"
            value={pen}
            onChange={(v) => setPen(v as typeof pen)}
            data={[
              { value: "crop", label: "Crop" },
              { value: "arrow", label: "Arrow" },
              { value: "frame", label: "Frame" },
            ]}
          />
          <SlotChoice desk={desk} label="Into" slot={slot} choose={setSlot} />
          <Button variant="default" disabled={!shot.changed} onClick={() => setShot(shot.before())}>
            Undo
          </Button>
          {from === "camera" && <Button onClick={() => keep(shot, true)}>Scan it</Button>}
          <Button
            variant={from === "camera" ? "default" : "filled"}
            onClick={() => keep(shot, false)}
          >
            Put it into the bundle
          </Button>
          <Button variant="subtle" onClick={() => setShot(undefined)}>
            Throw it away
          </Button>
        </>
      )}
      {trouble && (
        <p className="must" role="alert">
          {trouble}
        </p>
      )}
      <Sending uploads={uploads} />
      {bench &&
        createPortal(
          <div className={styles.stage}>
            {stream && <Seen stream={stream} mirrored={from === "camera" && mirrored} />}
            {shot && <Still shot={shot} pen={pen} square={square} change={setShot} />}
            {!stream && !shot && (
              <p className="soft">
                What you capture is cropped and marked here, and goes into its slot under a name
                with its date. A photograph of a page goes on to Scan.
              </p>
            )}
          </div>,
          bench,
        )}
    </>
  );
}
