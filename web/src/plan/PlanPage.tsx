import { Button } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { Standing } from "../shared/Standing";
import { type Plan, Trial, TrialBar, usePlan, useTrial } from "../shared/trial";
import { Day } from "./Day";
import styles from "./PlanPage.module.css";
import { useTitle } from "../shared/title";

/** The coming work by day, whether it fits, and what to do if it does not. */
export default function PlanPage() {
  useTitle("Plan");
  return (
    <Trial>
      <Standing query={usePlan()}>{(p) => <Full saved={p} />}</Standing>
    </Trial>
  );
}

function Full({ saved }: { saved: Plan }) {
  const { tried, release, busy } = useTrial();
  const p = tried ?? saved;
  const last = p.days.findLastIndex((d) => d.slabs.length > 0 || d.dues.length > 0);
  const held = p.wish.pins.length + p.wish.not_before.length;
  return (
    <>
      <TrialBar />
      <div className={styles.page}>
        <div className={styles.head}>
          <div>
            <h1>Plan</h1>
            <p className={p.fits ? "soft" : "must"}>{p.summary}</p>
          </div>
          <nav aria-label="Also">
            <Link to="/settings">Your hours</Link>
            <Link to="/calendars">Busy times</Link>
            <Link to="/week">Weekly sheet</Link>
          </nav>
        </div>
        {!p.fits && <TooMuch plan={p} />}
        {held > 0 && (
          <p className={styles.held}>
            <span className="soft figures">{held} held in place by you.</span>{" "}
            <Button variant="subtle" disabled={busy} onClick={release}>
              Let go of all
            </Button>
          </p>
        )}
        {last < 0 ? (
          <p>
            Say at an assignment’s Desk how many hours it takes, and it is laid into your free hours
            here. <Link to="/add">Add an assignment</Link>, or{" "}
            <Link to="/settings">set your hours</Link> first.
          </p>
        ) : (
          <div className={styles.days}>
            {p.days.slice(0, last + 1).map((d) => (
              <Day key={d.date} day={d} plan={p} />
            ))}
          </div>
        )}
      </div>
    </>
  );
}

/** The stretch that proves that it cannot all be done, and what to give up. */
function TooMuch({ plan }: { plan: Plan }) {
  return (
    <section className={styles.much} aria-label="It does not fit">
      <h2>It does not all fit</h2>
      <p>{plan.proof}</p>
      <div className={styles.proposals}>
        {plan.proposals.map((p) => (
          <article key={p.kind}>
            <h3>{p.said}</h3>
            <p className="soft">Late without it: {p.cost}.</p>
            <Tasks tasks={p.tasks} />
          </article>
        ))}
      </div>
    </section>
  );
}

const few = 6;

/** The assignments of a proposal, the first of them as long as there are many. */
function Tasks({ tasks }: { tasks: Plan["proposals"][number]["tasks"] }) {
  const [all, setAll] = useState(false);
  return (
    <>
      <ul>
        {(all ? tasks : tasks.slice(0, few)).map((t) => (
          <li key={t.assignment_id}>
            <span>
              <b>{t.course}</b> {t.title}
              <span className="soft">, {t.cost}</span>
            </span>
            <Link to={`/desk/${t.assignment_id}#extension`}>Ask for more time here</Link>
          </li>
        ))}
      </ul>
      {tasks.length > few && (
        <Button variant="subtle" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `All ${tasks.length}`}
        </Button>
      )}
    </>
  );
}
