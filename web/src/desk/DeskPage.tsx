import { useEffect } from "react";
import { useLocation, useParams, useSearchParams } from "react-router";
import { type Desk, Refused } from "../api/client";
import { useDesk, useHorizon } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { elsewhere, moment, place } from "../shared/time";
import { useTitle } from "../shared/title";
import { AttemptCard } from "./AttemptCard";
import { Brief } from "./Brief";
import { Bundle } from "./Bundle";
import { Compare } from "./Compare";
import styles from "./DeskPage.module.css";
import { Extension } from "./Extension";
import { Noted } from "./Noted";
import { Parts } from "./Parts";
import { SubmitPart } from "./SubmitPart";
import { Sum, Ticket } from "./Ticket";
import { Work } from "./Work";

/** One assignment, read from top to bottom in the order of the work. */
export default function DeskPage() {
  const id = Number(useParams().id);
  const part = Number(useSearchParams()[0].get("part") ?? 0);
  const desk = useDesk(id, part);
  useTitle(desk.data?.line.title);
  const home = useHorizon().data?.zone ?? "UTC";
  const { hash } = useLocation();
  const there = desk.data !== undefined;
  useEffect(() => {
    // The place asked for, once there is something to go to.
    if (there && hash) document.getElementById(hash.slice(1))?.scrollIntoView();
  }, [there, hash]);
  if (desk.error instanceof Refused && desk.error.status === 404)
    return (
      <Nothing title="There is no such assignment">
        It may have been taken back, or belong to another account.
      </Nothing>
    );
  return (
    <Standing query={desk}>
      {(d) => {
        const l = d.line;
        return (
          <div className={styles.page}>
            <div className={styles.side}>
              <Ticket desk={d} />
              <div className={styles.aside}>
                {d.sum.length > 0 && <Sum lines={d.sum} />}
                <Work
                  key={`${d.effort.likely}/${d.effort.low}/${d.effort.high}/${l.done_minutes}`}
                  desk={d}
                />
              </div>
            </div>
            <div className={styles.head}>
              <div>
                <h1>{l.title}</h1>
                <p className="soft">
                  {d.course.title}
                  {d.course.instructor && ` · ${d.course.instructor}`} ·{" "}
                  {d.own ? "your own" : `site: ${d.course.site}`}
                </p>
              </div>
              <div className={styles.due}>
                <strong>
                  {moment(l.due, l.zone)}
                  {l.zone !== home && (
                    <span className="soft">
                      {" "}
                      {place(l.zone)}, {elsewhere(l.due, l.zone, home) ?? `${place(home)} the same`}
                    </span>
                  )}
                </strong>
                <p className="soft">{d.due_text}</p>
                {d.rounds && <p className="soft">{d.rounds}</p>}
                {l.extension === "granted" && <p className="soft">More time was granted.</p>}
                {l.due_was && (
                  <p className="should">Changed; it was due {moment(l.due_was, l.zone)}.</p>
                )}
              </div>
            </div>
            <Sections key={`${l.id}/${l.part_id}`} desk={d} />
          </div>
        );
      }}
    </Standing>
  );
}

/** What matters now comes first: what came back or is under way stands above the bundle of a next attempt. */
function Sections({ desk: d }: { desk: Desk }) {
  const attempts = d.attempts.map((a, n) => (
    <AttemptCard
      key={a.submission_id}
      attempt={a}
      zone={d.line.zone}
      enough={n === 0 ? d : undefined}
    />
  ));
  const first = d.focus === "sent" || d.focus === "return";
  return (
    <div className={styles.main}>
      <Parts line={d.line} />
      {first && attempts}
      <Brief desk={d} />
      {!d.submit.shut && <Bundle desk={d} />}
      {!d.submit.shut && <Compare desk={d} />}
      {d.own ? <Noted desk={d} /> : <SubmitPart desk={d} />}
      <Extension desk={d} />
      {!first && attempts}
    </div>
  );
}
