import { Button, Textarea, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useEffect, useRef, useState } from "react";
import { useLocation } from "react-router";
import { api, ask, type Desk, type Schemas } from "../api/client";
import { useAct } from "../shared/queries";
import { place } from "../shared/time";
import { transfer } from "../shared/upload";
import { WhenInput } from "../shared/WhenInput";
import { printed } from "../shared/when";
import page from "./DeskPage.module.css";
import styles from "./Extension.module.css";
import { keys } from "../shared/queryKeys";

/** More time: asking for it by a drafted mail, and applying it once it is granted. */
export function Extension({ desk }: { desk: Desk }) {
  const { hash } = useLocation();
  const [opened, setOpened] = useState(false);
  const l = desk.line;
  const open = opened || hash === "#extension" || l.extension !== "";
  if (l.sent_at && !l.extension) return null;
  return (
    <section id="extension" className={page.part}>
      <h2>More time</h2>
      {open ? (
        <Full id={l.id} zone={l.zone} />
      ) : (
        <p className="soft">
          Due times can be moved by the instructor.{" "}
          <Button variant="subtle" onClick={() => setOpened(true)}>
            Ask for more time
          </Button>
        </p>
      )}
    </section>
  );
}

function Full({ id, zone }: { id: number; zone: string }) {
  const [until, setUntil] = useState("");
  const path = { id };
  const view = useQuery({
    queryKey: keys.extension(id, until),
    queryFn: () =>
      ask(api.GET("/api/assignments/{id}/extension", { params: { path, query: { until } } })),
    placeholderData: (old) => old,
  });
  const set = useAct(async ({ file, ...body }: Schemas["Grant"] & { file?: File }) => {
    if (file) body.upload = await transfer(file, () => {}).id;
    return ask(api.PUT("/api/assignments/{id}/extension", { params: { path }, body }));
  });
  const { hash } = useLocation();
  const v = view.data;
  const there = v !== undefined;
  useEffect(() => {
    // It was asked for by its address, and only now has its height.
    if (there && hash === "#extension") document.getElementById("extension")?.scrollIntoView();
  }, [there, hash]);
  if (!v) return <p className="soft">{view.isError ? view.error.message : "Reading…"}</p>;
  const none = { due: "", closes: "", note: "", upload: "" };
  return (
    <div className={styles.extension}>
      {v.state === "granted" ? (
        <p>
          Granted until <b className="figures">{printed(v.due)}</b> {place(zone)} time
          {v.note && `: “${v.note}”`}.{" "}
          {v.proof > 0 && (
            <a href={`/api/versions/${v.proof}/content`} download>
              The proof of it
            </a>
          )}{" "}
          <Button variant="subtle" onClick={() => set.mutate({ state: "", ...none })}>
            Take it back
          </Button>
        </p>
      ) : (
        <div className={styles.sides}>
          <div>
            <h3>Ask</h3>
            <WhenInput
              label={`Until, ${place(zone)} time`}
              value={v.until}
              onChange={setUntil}
              required
            />
            <Textarea
              aria-label="The mail"
              readOnly
              autosize
              minRows={6}
              value={`To: ${v.to || "the instructor (set the contact on the page Courses)"}\nSubject: ${v.subject}\n\n${v.mail}`}
            />
            <p className={styles.acts}>
              <a href={v.link} className={styles.mail}>
                Open in the mail program
              </a>
              <Button variant="subtle" onClick={() => void navigator.clipboard.writeText(v.mail)}>
                Copy the text
              </Button>
              {v.state === "asked" ? (
                <span className="soft">Asked for.</span>
              ) : (
                <Button
                  variant="default"
                  loading={set.isPending}
                  onClick={() => set.mutate({ state: "asked", ...none })}
                >
                  I have asked
                </Button>
              )}
            </p>
          </div>
          <Grant
            key={v.until}
            start={v.until}
            zone={zone}
            apply={(g) => set.mutate(g)}
            busy={set.isPending}
          />
        </div>
      )}
    </div>
  );
}

/** The answer: the new times, with what proves them. */
function Grant({
  start,
  zone,
  apply,
  busy,
}: {
  start: string;
  zone: string;
  apply: (g: Schemas["Grant"] & { file?: File }) => void;
  busy: boolean;
}) {
  const [due, setDue] = useState(start);
  const [closes, setCloses] = useState("");
  const [note, setNote] = useState("");
  const [file, setFile] = useState<File>();
  const picker = useRef<HTMLInputElement>(null);
  return (
    <form
      className={styles.grant}
      onSubmit={(e) => {
        e.preventDefault();
        apply({ state: "granted", due, closes, note, upload: "", file });
      }}
    >
      <h3>Granted</h3>
      <div>
        <WhenInput label={`Due, ${place(zone)} time`} value={due} onChange={setDue} required />
        <WhenInput label="Closes, if told" value={closes} onChange={setCloses} />
      </div>
      <TextInput label="What was said" value={note} onChange={(e) => setNote(e.target.value)} />
      <p className={styles.acts}>
        <Button variant="subtle" onClick={() => picker.current?.click()}>
          {file ? file.name : "Attach the answer as proof"}
        </Button>
        <Button type="submit" loading={busy}>
          Apply it
        </Button>
      </p>
      <input
        ref={picker}
        type="file"
        hidden
        data-testid="proof"
        onChange={(e) => setFile(e.target.files?.[0])}
      />
    </form>
  );
}
