import { Nothing, Standing } from "../shared/Standing";
import { useHorizon } from "../shared/queries";
import { Chart } from "./Chart";
import styles from "./HorizonPage.module.css";
import { LineList } from "./LineList";
import { Moves } from "./Moves";

export function HorizonPage() {
  const horizon = useHorizon();
  return (
    <Standing query={horizon}>
      {(h) => h.lines.length === 0
        ? <Nothing title="No assignment is known yet">Whoever runs this Orario connects your course site to your account, with the command <span className="mono">orario site add</span>. What the site publishes then appears here by itself. {h.notices.join(" ")}</Nothing>
        : (
          <>
            {h.notices.map((n) => <p key={n} role="alert" className={styles.notice}>{n}</p>)}
            <div className={styles.page}>
              <Chart horizon={h} />
              <Moves moves={h.moves} lines={h.lines} home={h.zone} />
            </div>
            <LineList lines={h.lines} home={h.zone} />
          </>
        )}
    </Standing>
  );
}
