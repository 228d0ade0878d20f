import { Button } from "@mantine/core";
import { Link, useParams } from "react-router";
import { useLedger } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment, place } from "../shared/time";
import styles from "./Ledger.module.css";
import { useTitle } from "../shared/title";

const partNames: Record<string, string> = {
  course: "Course",
  assignment: "Assignment",
  student: "Student number",
  attempt: "Attempt",
  count: "Number of files",
  time: "Time of arrival",
  signature: "Signature",
};

export default function ReceiptPage() {
  useTitle("Receipt");
  const id = Number(useParams().id);
  return (
    <Standing query={useLedger()}>
      {(entries) => {
        const e = entries.find((entry) => entry.submission_id === id);
        if (!e)
          return (
            <Nothing title="There is no such receipt">
              It may belong to another account. All of yours are in the ledger.
            </Nothing>
          );
        const r = e.receipt;
        const download = () => {
          const link = document.createElement("a");
          link.href = URL.createObjectURL(
            new Blob([JSON.stringify(r, null, 2)], { type: "application/json" }),
          );
          link.download = `${r.number}.json`;
          link.click();
          URL.revokeObjectURL(link.href);
        };
        return (
          <article className={styles.receipt}>
            <div className={`${styles.tools} noprint`}>
              <Link to="/ledger">All receipts</Link>{" "}
              <Link to={`/desk/${e.assignment_id}`}>The Desk</Link>
              <span />
              <Button variant="default" onClick={download}>
                Download as JSON
              </Button>
              <Button variant="default" onClick={() => window.print()}>
                Print
              </Button>
            </div>
            <p className="soft">Receipt of {r.site}</p>
            <h1 className={styles.big}>{r.number}</h1>
            <p>
              <b>{e.title}</b>, {e.course}, attempt {r.attempt}
            </p>
            <p className="figures">
              received {moment(r.received_at, e.zone)} ({place(e.zone)})
              {r.lateness_minutes > 0 && `, ${r.lateness_minutes} minutes late`}
            </p>
            <h2>Files</h2>
            {r.files.map((f) => {
              const check = e.proof.files.find((c) => c.file === f.name);
              return (
                <div key={f.name} className={styles.file}>
                  <span className="mono">
                    <b>{f.name}</b>
                  </span>
                  <span className="figures">{f.bytes.toLocaleString("en-GB")} bytes</span>
                  <span className="mono soft">SHA-256 {f.sha256}</span>
                  <span className={check?.ok ? undefined : "must"}>
                    {check?.ok ? "is what you sent" : check?.why}
                  </span>
                </div>
              );
            })}
            {e.proof.files
              .filter((c) => !r.files.some((f) => f.name === c.file))
              .map((c) => (
                <p key={c.file} className="must">
                  {c.file}: {c.why}
                </p>
              ))}
            <h2>
              {e.proof.agrees
                ? "Everything agrees with what was sent"
                : "Something disagrees with what was sent"}
            </h2>
            <table>
              <tbody>
                {e.proof.parts.map((p) => (
                  <tr key={p.part}>
                    <th>{partNames[p.part] ?? p.part}</th>
                    <td className={p.ok ? undefined : "must"}>{p.ok ? "agrees" : "disagrees"}</td>
                    <td className="mono">
                      {p.found}
                      {!p.ok && `, expected ${p.expected}`}
                    </td>
                  </tr>
                ))}
              </tbody>
            </table>
            <p className="mono soft">
              Signed by {r.key}: {r.signature}
            </p>
          </article>
        );
      }}
    </Standing>
  );
}
