import { Button } from "@mantine/core";
import { useMemo } from "react";
import { Link, useNavigate } from "react-router";
import type { Horizon } from "../api/client";
import { useHorizon } from "../shared/queries";
import { Standing } from "../shared/Standing";
import { Trial, TrialBar, useTrial } from "../shared/trial";
import { Changes } from "./Changes";
import { Chart } from "./Chart";
import styles from "./HorizonPage.module.css";
import { LineList } from "./LineList";
import { Moves } from "./Moves";
import { useTitle } from "../shared/title";

export function HorizonPage() {
  useTitle("Horizon");
  return (
    <Standing query={useHorizon()}>
      {(h) =>
        h.lines.length === 0 ? (
          <Begin notices={h.notices} />
        ) : (
          <Trial>
            <Full horizon={h} />
          </Trial>
        )
      }
    </Standing>
  );
}

function Full({ horizon }: { horizon: Horizon }) {
  const { tried } = useTrial();
  // While a plan is tried its slabs are shown in place of the saved ones.
  const h = useMemo(() => {
    if (!tried) return horizon;
    const by = new Map(tried.lines.map((l) => [l.assignment_id, l]));
    return {
      ...horizon,
      lines: horizon.lines.map((l) => {
        const t = by.get(l.id);
        return t ? { ...l, blocks: t.blocks, slack: t.slack, miss: t.miss } : l;
      }),
    };
  }, [horizon, tried]);
  return (
    <>
      {h.notices.map((n) => (
        <p key={n} role="alert" className={styles.notice}>
          {n}
        </p>
      ))}
      <Changes changes={h.changes} />
      <TrialBar />
      <div className={styles.page}>
        <Chart horizon={h} />
        <Moves moves={h.moves} lines={h.lines} home={h.zone} />
      </div>
      <LineList lines={h.lines} home={h.zone} views={h.views} now={h.now} />
    </>
  );
}

/** What someone new does first. */
function Begin({ notices }: { notices: string[] }) {
  const navigate = useNavigate();
  return (
    <section className={styles.begin}>
      <h1>Nothing is due yet</h1>
      <p>
        Orario keeps every deadline of your courses on one line of time, and says what to do next
        and by when. Begin with any of these:
      </p>
      <ol>
        <li>
          <b>Type one in.</b>{" "}
          <span>
            One line is enough: <span className="mono">lab 5 HYD Fri 23:59 20p pdf</span>
          </span>
          <Button onClick={() => navigate("/add")}>Add an assignment</Button>
        </li>
        <li>
          <b>Paste instructions.</b>{" "}
          <span>Orario reads what they ask for, and you confirm it.</span>
          <Button variant="default" onClick={() => navigate("/add")}>
            Paste instructions
          </Button>
        </li>
        <li>
          <b>Take over a calendar.</b> <span>An iCalendar file, its address, or a table.</span>
          <Button variant="default" onClick={() => navigate("/calendars")}>
            Take over a calendar
          </Button>
        </li>
      </ol>
      <p className="soft">
        A course site is connected by whoever runs this Orario, with{" "}
        <span className="mono">orario site add</span>; what it publishes appears here by itself.
        First, <Link to="/courses">set up your courses</Link>. {notices.join(" ")}
      </p>
    </section>
  );
}
