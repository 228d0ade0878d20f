import { Button } from "@mantine/core";
import { useEffect, useRef } from "react";
import { Link } from "react-router";
import { api, ask, type Desk } from "../api/client";
import { useDrop } from "../shared/drop";
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
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      if (e.target instanceof HTMLInputElement || e.target instanceof HTMLTextAreaElement) return;
      if (e.clipboardData?.files.length) start(e.clipboardData.files);
    };
    document.addEventListener("paste", paste);
    return () => document.removeEventListener("paste", paste);
  }, [start]);
  const choose = (into: string) => {
    slot.current = into;
    picker.current?.click();
  };
  const { over, drag } = useDrop(start);
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
              {items.map((i) => (
                <ItemRow
                  key={i.id}
                  item={i}
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
