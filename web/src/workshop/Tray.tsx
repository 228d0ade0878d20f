import { Button } from "@mantine/core";
import { useRef, useState } from "react";
import type { Desk } from "../api/client";
import { Sending } from "../desk/Sending";
import { useUploads } from "../desk/uploads";
import { useDrop, usePaste } from "../shared/drop";
import { type Chosen, filesOf } from "./work";
import styles from "./Tray.module.css";

type Props = { desk: Desk; chosen: Chosen[]; choose: (list: Chosen[]) => void };

/** The files of the bundle, to be laid on the bench, in the order in which they are chosen. */
export function Tray({ desk, chosen, choose }: Props) {
  const uploads = useUploads(desk.line.id, desk.line.part_id);
  const picker = useRef<HTMLInputElement>(null);
  const { over, drag } = useDrop(uploads.start);
  usePaste(uploads.start);
  const [moved, setMoved] = useState<Chosen>();
  const put = (before: Chosen) => {
    if (!moved || moved.version === before.version) return;
    const rest = chosen.filter((c) => c.version !== moved.version);
    rest.splice(Math.max(0, place(before.version)), 0, moved);
    choose(rest);
  };
  const place = (version: number) => chosen.findIndex((c) => c.version === version);
  const toggle = (c: Chosen) =>
    choose(place(c.version) >= 0 ? chosen.filter((x) => x.version !== c.version) : [...chosen, c]);
  const all = filesOf(desk);
  return (
    <div className={styles.tray} data-over={over} {...drag}>
      <ul aria-label="Files of the bundle">
        {all.map((c, n) => {
          const at = place(c.version);
          return (
            <li
              key={desk.items[n]!.id}
              draggable={at >= 0}
              onDragStart={() => setMoved(c)}
              onDragEnd={() => setMoved(undefined)}
              onDragOver={(e) => moved && at >= 0 && e.preventDefault()}
              onDrop={(e) => {
                if (!moved) return;
                e.preventDefault();
                e.stopPropagation();
                put(c);
              }}
            >
              <button type="button" aria-pressed={at >= 0} onClick={() => toggle(c)} title={c.name}>
                <span className={styles.place}>{at >= 0 ? at + 1 : ""}</span>
                <span className="mono">{c.name}</span>
                <span className="soft figures">{desk.items[n]!.facts[0]}</span>
              </button>
            </li>
          );
        })}
        <li className={styles.add}>
          <Button variant="subtle" onClick={() => picker.current?.click()}>
            Add files
          </Button>
          {all.length > 1 && (
            <Button
              variant="subtle"
              onClick={() => choose(chosen.length === all.length ? [] : all)}
            >
              {chosen.length === all.length ? "Choose none" : "Choose all"}
            </Button>
          )}
        </li>
      </ul>
      <Sending uploads={uploads} />
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        data-testid="tray-picker"
        onChange={(e) => {
          if (e.target.files) uploads.start([...e.target.files]);
          e.target.value = "";
        }}
      />
    </div>
  );
}
