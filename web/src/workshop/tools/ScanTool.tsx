import { Button, Checkbox, NativeSelect } from "@mantine/core";
import { useState } from "react";
import { createPortal } from "react-dom";
import { usePhotograph } from "../bench/Look";
import { Corners, type Quad } from "../bench/Corners";
import type { ToolProps } from "../work";
import styles from "./ScanTool.module.css";

type Settled = { corners?: Quad; turn?: number };

/** Photographs in, pages out. What is found can be drawn and turned otherwise before the pages are made. */
export default function ScanTool({ chosen, choose, begin, busy, bench }: ToolProps) {
  const [at, setAt] = useState(0);
  const [settled, setSettled] = useState<Record<number, Settled>>({});
  const [paper, setPaper] = useState("");
  const [strength, setStrength] = useState(60);
  const [text, setText] = useState(true);
  const file = chosen[Math.min(at, chosen.length - 1)]!;
  const settle = (what: Settled) =>
    setSettled((s) => ({ ...s, [file.version]: { ...s[file.version], ...what } }));
  const mine = settled[file.version];
  const move = (by: number) => {
    const list = chosen.filter((c) => c !== file);
    list.splice(at + by, 0, file);
    choose(list);
    setAt(at + by);
  };
  return (
    <>
      <NativeSelect
        label="Paper"
        value={paper}
        onChange={(e) => setPaper(e.target.value)}
        data={[
          { value: "", label: "as it is in the photograph" },
          { value: "a4", label: "A4" },
          { value: "letter", label: "Letter" },
          { value: "photo", label: "the whole photograph" },
        ]}
      />
      <label className={styles.strength}>
        <span>Clean up, {strength === 0 ? "not at all" : `${strength} %`}</span>
        <input
          type="range"
          min={0}
          max={100}
          step={10}
          value={strength}
          onChange={(e) => setStrength(Number(e.target.value))}
        />
      </label>
      <Checkbox
        label="Make it searchable"
        checked={text}
        onChange={(e) => setText(e.currentTarget.checked)}
      />
      <Button
        loading={busy}
        onClick={() =>
          begin("scan", {
            paper,
            strength: strength / 100,
            text: text ? "eng+por+ita" : "",
            settled: chosen.map((c) => settled[c.version] ?? {}),
          })
        }
      >
        Make {chosen.length === 1 ? "a page" : `${chosen.length} pages`}
      </Button>
      {bench &&
        createPortal(
          <div>
            <div className={styles.bar}>
              {chosen.length > 1 && (
                <>
                  <Button variant="default" disabled={at === 0} onClick={() => setAt(at - 1)}>
                    Before
                  </Button>
                  <span className="figures">
                    {at + 1} of {chosen.length}
                  </span>
                  <Button
                    variant="default"
                    disabled={at >= chosen.length - 1}
                    onClick={() => setAt(at + 1)}
                  >
                    Next
                  </Button>
                  <Button variant="subtle" disabled={at === 0} onClick={() => move(-1)}>
                    Earlier page
                  </Button>
                  <Button
                    variant="subtle"
                    disabled={at >= chosen.length - 1}
                    onClick={() => move(1)}
                  >
                    Later page
                  </Button>
                </>
              )}
              <span className="mono">{file.name}</span>
              <NativeSelect
                aria-label="Which way up"
                value={mine?.turn === undefined ? "" : String(mine.turn)}
                onChange={(e) =>
                  settle({ turn: e.target.value === "" ? undefined : Number(e.target.value) })
                }
                data={[
                  { value: "", label: "upright by its text" },
                  { value: "0", label: "not turned" },
                  { value: "90", label: "turned right" },
                  { value: "180", label: "turned over" },
                  { value: "270", label: "turned left" },
                ]}
              />
              {mine?.corners && (
                <Button variant="subtle" onClick={() => settle({ corners: undefined })}>
                  Corners as found
                </Button>
              )}
            </div>
            <Photo
              version={file.version}
              corners={mine?.corners}
              draw={(corners) => settle({ corners })}
            />
          </div>,
          bench,
        )}
    </>
  );
}

type PhotoProps = { version: number; corners?: Quad; draw: (corners: Quad) => void };

function Photo({ version, corners, draw }: PhotoProps) {
  const photo = usePhotograph(version);
  if (photo.error) return <p className="must">{photo.error.message}</p>;
  if (!photo.data) return <p className="soft">Looking for the page…</p>;
  return (
    <>
      {!photo.data.found && !corners && (
        <p className="should">No page was found. Draw the corners to where they are.</p>
      )}
      <Corners photo={photo.data} corners={corners ?? (photo.data.corners as Quad)} draw={draw} />
    </>
  );
}
