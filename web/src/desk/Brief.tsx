import { Button } from "@mantine/core";
import { useState } from "react";
import { Link, useLocation } from "react-router";
import { api, ask, type Desk } from "../api/client";
import { useAct } from "../shared/queries";
import { Underlined } from "../shared/Underlined";
import styles from "./Brief.module.css";
import page from "./DeskPage.module.css";
import { Handouts } from "./Handouts";
import { MadeName } from "../shared/MadeName";
import { NameDesigner } from "../shared/NameDesigner";

const from = { site: "site", yours: "yours", course: "to confirm", read: "to confirm" };

/** What is asked, as requirements, beside the instructions that they come from. */
export function Brief({ desk }: { desk: Desk }) {
  const settle = useAct((n: number) =>
    ask(
      api.POST("/api/assignments/{id}/asks/{ask}", {
        params: { path: { id: desk.line.id, ask: n } },
      }),
    ),
  );
  const open = desk.requirements.filter((r) => !r.settled && r.ask > 0 && !r.singly).length;
  const waits = desk.requirements.some((r) => !r.settled);
  const fresh = desk.items.length + desk.attempts.length + desk.line.done_minutes === 0;
  const [shown, setShown] = useState(waits || fresh);
  const pattern = desk.requirements.find((r) => r.key === "name" && r.text.includes("{"))?.text;
  const { hash } = useLocation();
  if (!shown && hash !== "#brief")
    return (
      <section id="brief" className={page.part}>
        <div className={styles.folded}>
          <h2>Brief</h2>
          <p>
            {summed(desk)}
            {pattern && (
              <>
                {" · "}
                <MadeName assignment={desk.line.id} pattern={pattern} />
              </>
            )}
          </p>
          <Button variant="subtle" aria-expanded={false} onClick={() => setShown(true)}>
            Show all of it
          </Button>
        </div>
      </section>
    );
  return (
    <section id="brief" className={page.part}>
      <h2>Brief</h2>
      <div className={styles.brief}>
        <div className={styles.sheet}>
          {desk.requirements.map((r) =>
            r.key === "name" && r.from !== "site" && r.ask === 0 ? (
              <Name
                key={r.key}
                id={desk.line.id}
                pattern={r.text === "as you like" ? "" : r.text}
                settled={r.settled}
              />
            ) : (
              <div key={r.key + r.text} className={styles.row} data-open={!r.settled}>
                <span>{r.key}</span>
                {r.key === "name" && r.text.includes("{") ? (
                  <MadeName assignment={desk.line.id} pattern={r.text} />
                ) : (
                  <span>{r.text}</span>
                )}
                {r.settled ? (
                  <span className="soft">
                    {from[r.from] === "to confirm" ? "confirmed" : from[r.from]}
                  </span>
                ) : (
                  <Button variant="default" onClick={() => settle.mutate(r.ask)}>
                    Confirm
                  </Button>
                )}
              </div>
            ),
          )}
          {desk.own && (
            <p className={styles.acts}>
              {open > 1 && (
                <Button
                  variant="default"
                  loading={settle.isPending}
                  onClick={() => settle.mutate(0)}
                >
                  Confirm all {open}
                </Button>
              )}
              <Link to={`/desk/${desk.line.id}/change`}>Change the brief</Link>
            </p>
          )}
        </div>
        <div className={styles.original}>
          {desk.instructions ? (
            <Underlined text={desk.instructions} marks={desk.read} />
          ) : (
            desk.own && <p className="soft">No instructions are kept with this one.</p>
          )}
          <Handouts desk={desk} />
          {!desk.own && (
            <p className="soft">
              from {desk.course.site}
              {desk.read.length > 0 && "; underlined is what can be checked"}
            </p>
          )}
        </div>
      </div>
    </section>
  );
}

/** A settled brief in one line: its figures, without what is said elsewhere on the page. */
function summed(desk: Desk): string {
  const told = ["due", "opens", "closes", "points", "declaration", "lateness"];
  const units = ["pages", "words"];
  const list = desk.requirements
    .filter((r) => !told.includes(r.key) && !(r.key === "name" && r.text.includes("{")))
    .map((r) =>
      units.includes(r.key) && !r.text.includes(r.key)
        ? `${r.text} ${r.key}`
        : r.key === "attempts"
          ? `attempts: ${r.text}`
          : r.text,
    );
  return list.join(" · ") || "Nothing special is asked for.";
}

/** The name pattern, which the student settles where the site gives none. */
function Name({ id, pattern, settled }: { id: number; pattern: string; settled: boolean }) {
  const [text, setText] = useState(pattern);
  const [editing, setEditing] = useState(false);
  const settle = useAct((p: string) =>
    ask(api.PUT("/api/assignments/{id}/name", { params: { path: { id } }, body: { pattern: p } })),
  );
  const done = (p: string) => settle.mutate(p, { onSuccess: () => setEditing(false) });
  return (
    <div className={styles.row} data-open={!settled}>
      <span>name</span>
      <div>
        {editing ? (
          <NameDesigner assignment={id} pattern={text} change={setText} />
        ) : (
          <>{pattern ? <MadeName assignment={id} pattern={pattern} /> : "as you like"}</>
        )}
        {settled && !editing && (
          <Button variant="subtle" onClick={() => setEditing(true)}>
            Change
          </Button>
        )}
        <p className={styles.acts}>
          {!settled && !editing && (
            <>
              <span className="soft">Your habit in this course.</span>{" "}
              <Button variant="default" loading={settle.isPending} onClick={() => done(pattern)}>
                Confirm
              </Button>
            </>
          )}
          {editing && (
            <>
              <Button onClick={() => done(text)} loading={settle.isPending}>
                Use this pattern
              </Button>
              <Button variant="subtle" onClick={() => done("")}>
                No pattern
              </Button>
            </>
          )}
          {!settled && !editing && (
            <Button variant="subtle" onClick={() => setEditing(true)}>
              Change
            </Button>
          )}
        </p>
      </div>
      <span className={settled ? "soft" : "should"}>{settled ? "yours" : "to confirm"}</span>
    </div>
  );
}
