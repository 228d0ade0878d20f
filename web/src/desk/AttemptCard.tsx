import { Button } from "@mantine/core";
import { Link } from "react-router";
import { api, ask, type Desk, type Schemas } from "../api/client";
import { PunchStrip } from "../shared/PunchStrip";
import { useAct } from "../shared/queries";
import { moment } from "../shared/time";
import { WordChanges } from "../shared/WordChanges";
import styles from "./AttemptCard.module.css";
import page from "./DeskPage.module.css";
import { useWork } from "./Work";

type Props = { attempt: Schemas["Attempt"]; zone: string; enough?: Desk };

/** One attempt that was sent: its receipt, its report, what came back, what changed. */
export function AttemptCard({ attempt: a, zone, enough }: Props) {
  const cancel = useAct(() =>
    ask(api.DELETE("/api/submissions/{id}", { params: { path: { id: a.submission_id } } })),
  );
  return (
    <section id={enough && "attempts"} className={page.part}>
      <div className={styles.head}>
        <h2>Attempt {a.number}</h2>
        <PunchStrip places={a.strip} />
      </div>
      <p className={a.state === "refused" ? "must" : undefined}>{a.said}</p>
      {a.state === "sending" && (
        <div className={styles.way}>
          <progress value={a.sent_bytes} max={Math.max(1, a.total_bytes)} aria-label="Sent" />
          {a.may_cancel && (
            <Button variant="subtle" onClick={() => cancel.mutate(undefined)}>
              Cancel
            </Button>
          )}
        </div>
      )}
      <div className={styles.parts}>
        <div>
          <h3>Sent</h3>
          {a.files.map((f) => (
            <p key={f.name}>
              <Link className="mono" to={`/library/${f.version_id}`}>
                {f.name}
              </Link>{" "}
              <span className="soft">{f.bytes}</span>
            </p>
          ))}
          {a.comment && <p className="soft">“{a.comment}”</p>}
        </div>
        {a.receipt && a.proof && (
          <div>
            <h3>Receipt</h3>
            <p>
              <Link to={`/ledger/${a.submission_id}`} className="mono">
                {a.receipt.number}
              </Link>
            </p>
            <p className="figures">{moment(a.receipt.received_at, zone)}</p>
            <p className={a.proof.agrees ? undefined : "must"}>
              {a.proof.agrees
                ? "Proof: files, count, time and signature agree."
                : (a.proof.files.find((f) => !f.ok)?.why ?? "It disagrees with what was sent.")}
            </p>
          </div>
        )}
        {a.report && (
          <div>
            <h3>Report</h3>
            <p className={a.report.ready ? undefined : styles.waiting}>{a.report.said}</p>
            {a.report.ready && (
              <Link to={`/reading/${a.submission_id}`}>Open the reading room</Link>
            )}
          </div>
        )}
        {a.returned && <Returned returned={a.returned} desk={enough} />}
      </div>
      {a.changes && a.changes.changes.length > 0 && (
        <WordChanges changes={a.changes} title={`What changed since attempt ${a.number - 1}`} />
      )}
    </section>
  );
}

function Returned({ returned: r, desk }: { returned: Schemas["ReturnView"]; desk?: Desk }) {
  const settle = useWork(desk?.line.id ?? 0);
  const enough = () =>
    settle.mutate({
      effort_minutes: desk!.effort.likely,
      low_minutes: desk!.effort.low,
      high_minutes: desk!.effort.high,
      done_minutes: desk!.line.done_minutes,
      enough: true,
    });
  return (
    <div id={desk && "return"} className={styles.returned}>
      <h3>Return</h3>
      {r.mark !== null && (
        <p className={styles.mark}>
          {r.mark} <span>of {r.points}</span>
        </p>
      )}
      {r.invited && <p>You are invited to send a corrected version.</p>}
      <ul>
        {r.comments.map((c) => (
          <li key={c.text} data-open={c.open}>
            {c.text}
            {c.points !== undefined && <span className="soft"> (−{c.points})</span>}
          </li>
        ))}
      </ul>
      {r.worth && (
        <>
          <p className="soft">{r.worth}</p>
          <Button variant="subtle" onClick={enough}>
            It is enough
          </Button>
        </>
      )}
    </div>
  );
}
