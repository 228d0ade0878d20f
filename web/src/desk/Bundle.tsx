import { Button } from "@mantine/core";
import { useRef, useState } from "react";
import { Link } from "react-router";
import { api, ask, type Desk, type Schemas } from "../api/client";
import { useDrop, usePaste } from "../shared/drop";
import { useAct } from "../shared/queries";
import styles from "./Bundle.module.css";
import page from "./DeskPage.module.css";
import { Findings, type Fix } from "./Findings";
import { ItemRow } from "./ItemRow";
import { Sending } from "./Sending";
import { useUploads } from "./uploads";

/** The files to send, one part per slot, with what the checks say under each. */
export function Bundle({ desk }: { desk: Desk }) {
  const uploads = useUploads(desk.line.id, desk.line.part_id);
  const begin = useAct(() =>
    ask(
      api.POST("/api/assignments/{id}/attempts", {
        params: { path: { id: desk.line.id } },
        body: { part: desk.line.part_id },
      }),
    ),
  );
  const fix = useAct((what: { item: number; how: Fix }) =>
    ask(
      api.POST("/api/items/{id}/fix", {
        params: { path: { id: what.item } },
        body: { fix: what.how },
      }),
    ),
  );
  const picker = useRef<HTMLInputElement>(null);
  const slot = useRef("");
  const { start } = uploads;
  usePaste(start);
  const choose = (into: string) => {
    slot.current = into;
    picker.current?.click();
  };
  const { over, drag } = useDrop(start);
  const path = { path: { id: desk.line.id } };
  const order = useAct((items: number[]) =>
    ask(
      api.PUT("/api/assignments/{id}/order", {
        params: path,
        body: { part: desk.line.part_id, items },
      }),
    ),
  );
  const renameAll = useAct(() =>
    ask(
      api.POST("/api/assignments/{id}/names", { params: path, body: { part: desk.line.part_id } }),
    ),
  );
  const [gone, setGone] = useState<Schemas["Item"] & { before: number }>();
  const putBack = useAct((i: NonNullable<typeof gone>) =>
    ask(
      api.POST("/api/assignments/{id}/items", {
        params: path,
        body: {
          part: desk.line.part_id,
          slot: i.slot,
          version: i.version_id,
          name: i.name,
          before: i.before,
        },
      }),
    ).then(() => setGone(undefined)),
  );
  /** Moves a file before or behind the next one of its slot. */
  const move = (item: Schemas["Item"], by: 1 | -1) => {
    const ids = desk.items.map((i) => i.id);
    const slotted = desk.items.filter((i) => i.slot === item.slot).map((i) => i.id);
    const other = slotted[slotted.indexOf(item.id) + by];
    if (other === undefined) return;
    const [a, b] = [ids.indexOf(item.id), ids.indexOf(other)];
    [ids[a], ids[b]] = [other, item.id];
    order.mutate(ids);
  };
  const misnamed = desk.findings.filter((f) => f.fix === "rename").length;
  const workshop = `/desk/${desk.line.id}/workshop?part=${desk.line.part_id}`;
  const whole = desk.findings.filter((f) => f.item === 0 && f.slot === "");
  return (
    <section id="bundle" className={page.part} {...drag}>
      <h2>
        Bundle and checks
        {desk.attempts.some((a) => a.state === "accepted") && `, attempt ${desk.line.attempt}`}
      </h2>
      {desk.next && (
        <p className={styles.next}>
          <Button variant="default" loading={begin.isPending} onClick={() => begin.mutate()}>
            {desk.next}
          </Button>{" "}
          <span className="soft">Or put a corrected file in; the others come along.</span>
        </p>
      )}
      {misnamed > 1 && (
        <p className={styles.next}>
          <Button
            variant="default"
            loading={renameAll.isPending}
            onClick={() => renameAll.mutate(undefined)}
          >
            Rename all {misnamed}
          </Button>
        </p>
      )}
      {desk.slots.map((s) => {
        const items = desk.items.filter((i) => i.slot === s.name);
        return (
          <div key={s.name} className={styles.slot}>
            <div>
              <b>{s.name}</b>
              {!s.required && <span className="soft"> if you like</span>}
              <br />
              <span className="soft">{s.asks || "any form"}</span>
            </div>
            <div>
              {items.map((i, n) => (
                <ItemRow
                  key={i.id}
                  item={i}
                  earlier={n > 0 ? () => move(i, -1) : undefined}
                  later={n < items.length - 1 ? () => move(i, 1) : undefined}
                  removed={() =>
                    setGone({ ...i, before: desk.items[desk.items.indexOf(i) + 1]?.id ?? 0 })
                  }
                  slots={desk.slots}
                  workshop={`${workshop}&v=${i.version_id}`}
                  findings={desk.findings.filter((f) => f.item === i.id)}
                />
              ))}
              {items.length === 0 && (
                <p className="soft">
                  Empty.{" "}
                  <button type="button" className={styles.link} onClick={() => choose(s.name)}>
                    Choose a file
                  </button>
                </p>
              )}
              <Findings
                findings={desk.findings.filter(
                  (f) => f.item === 0 && f.slot === s.name && f.code !== "slot_empty",
                )}
                fix={(how) => items[0] && fix.mutate({ item: items[0].id, how })}
                busy={fix.isPending}
              />
            </div>
          </div>
        );
      })}
      <Findings findings={whole} />
      {gone && (
        <p className={styles.upload} role="status">
          <span className="mono">{gone.name}</span> is taken out; the Library keeps it.
          <Button variant="default" onClick={() => putBack.mutate(gone)}>
            Undo
          </Button>
          <Button variant="subtle" onClick={() => setGone(undefined)}>
            Good
          </Button>
        </p>
      )}
      <Sending uploads={uploads} />
      <p className={styles.drop} data-over={over}>
        {over ? (
          "Let go to add"
        ) : (
          <>
            Drop files here, paste, or{" "}
            <button type="button" className={styles.link} onClick={() => choose("")}>
              choose
            </button>
            . Or <Link to={workshop}>make one in the Workshop</Link>: write, scan, record, capture.
          </>
        )}
      </p>
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        data-testid="picker"
        onChange={(e) => {
          if (e.target.files) start([...e.target.files], slot.current);
          e.target.value = "";
        }}
      />
    </section>
  );
}
