import { Link } from "react-router";
import { useLedger } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import styles from "./Ledger.module.css";
import { useTitle } from "../shared/title";

export default function LedgerPage() {
  useTitle("Ledger");
  return (
    <Standing query={useLedger()}>
      {(entries) =>
        entries.length === 0 ? (
          <Nothing title="The ledger is empty">
            The receipt of everything you submit is entered here, with the proof that it agrees with
            what you sent.
          </Nothing>
        ) : (
          <section className={styles.page}>
            <h1>Ledger</h1>
            <p className="soft">
              {entries.length} {entries.length === 1 ? "receipt" : "receipts"}, the newest first. A
              receipt is a proof when everything in it agrees with what you sent.
            </p>
            <ol className={styles.entries}>
              {entries.map((e) => (
                <li key={e.id}>
                  <span className={styles.when}>{moment(e.receipt.received_at, e.zone)}</span>
                  <div>
                    <Link to={`/ledger/${e.submission_id}`} className={styles.number}>
                      {e.receipt.number}
                    </Link>
                    <p>
                      <b>{e.title}</b>{" "}
                      <span className="soft">
                        {e.course}, attempt {e.receipt.attempt}
                      </span>
                    </p>
                    <p className="mono">{e.receipt.files.map((f) => f.name).join(", ")}</p>
                  </div>
                  <span className={styles.proof} data-agrees={e.proof.agrees}>
                    {e.proof.agrees ? "Proof: agrees" : "Disagrees, look at it"}
                  </span>
                  <span className="soft figures">
                    {e.receipt.files.length} {e.receipt.files.length === 1 ? "file" : "files"},{" "}
                    {e.bytes}
                  </span>
                </li>
              ))}
            </ol>
          </section>
        )
      }
    </Standing>
  );
}
