import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Desk } from "../api/client";
import { useAct } from "../shared/queries";
import { fromWall, place } from "../shared/time";
import { WhenInput } from "../shared/WhenInput";
import page from "./DeskPage.module.css";
import styles from "./SubmitPart.module.css";
import { useWork } from "./Work";

/** Work that no connected site takes: the student sends it and notes when. */
export function Noted({ desk }: { desk: Desk }) {
  const [at, setAt] = useState("");
  const [note, setNote] = useState("");
  const l = desk.line;
  const put = useAct((body: { at: string | null; note: string }) =>
    ask(
      api.PUT("/api/assignments/{id}/noted", {
        params: { path: { id: l.id } },
        body: { ...body, part: l.part_id },
      }),
    ),
  );
  const enough = useWork(l.id);
  const sent = l.sent_at !== null;
  const parts = l.parts.filter((p) => p.sent).map((p) => p.name);
  return (
    <section id="sent" className={page.part}>
      <h2>Send</h2>
      <p>{desk.submit.sentence}</p>
      {desk.items.map((i) => (
        <p key={i.id}>
          <a className="mono" href={`/api/versions/${i.version_id}/content`} download={i.name}>
            {i.name}
          </a>
        </p>
      ))}
      {parts.length > 0 && <p className="soft">Noted as sent so far: {parts.join(", ")}.</p>}
      {sent ? (
        <p className={styles.noted}>
          {l.state !== "done" && (
            <Button
              variant="default"
              loading={enough.isPending}
              onClick={() =>
                enough.mutate({
                  effort_minutes: desk.effort.likely,
                  low_minutes: desk.effort.low,
                  high_minutes: desk.effort.high,
                  done_minutes: l.done_minutes,
                  enough: true,
                })
              }
            >
              It is done
            </Button>
          )}
          <Button variant="subtle" onClick={() => put.mutate({ at: null, note: "" })}>
            Take the note back
          </Button>
        </p>
      ) : (
        <form
          className={styles.noted}
          onSubmit={(e) => {
            e.preventDefault();
            put.mutate({ at: (at ? fromWall(at, l.zone) : new Date()).toISOString(), note });
          }}
        >
          <WhenInput
            label={`Sent at, ${place(l.zone)} time; now, if empty`}
            value={at}
            onChange={setAt}
          />
          <TextInput
            label="How, if you like"
            value={note}
            onChange={(e) => setNote(e.target.value)}
          />
          <Button type="submit" loading={put.isPending}>
            Note {l.part || "it"} as sent
          </Button>
        </form>
      )}
    </section>
  );
}
