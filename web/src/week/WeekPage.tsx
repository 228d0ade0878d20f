import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useSearchParams } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { Standing } from "../shared/Standing";
import { clock, date, place } from "../shared/time";
import styles from "./WeekPage.module.css";
import { useTitle } from "../shared/title";
import { keys } from "../shared/queryKeys";

/** Seven days on one page, to be pinned on a wall. */
export default function WeekPage() {
  useTitle("Week");
  const [query, setQuery] = useSearchParams();
  const from = query.get("from") ?? "";
  const week = useQuery({
    queryKey: keys.week(from),
    queryFn: () => ask(api.GET("/api/week", { params: { query: { from } } })),
  });
  const shift = (w: Schemas["WeekSheet"], days: number) =>
    setQuery({
      from: new Date(new Date(`${w.from}T12:00:00Z`).getTime() + days * 864e5)
        .toISOString()
        .slice(0, 10),
    });
  return (
    <Standing query={week}>
      {(w) => (
        <div className={styles.page}>
          <div className={styles.head}>
            <h1>{span(w)}</h1>
            <p className="soft">
              {w.said} Times of {place(w.zone)}.
            </p>
            <p className={`${styles.acts} noprint`}>
              <Button variant="subtle" onClick={() => shift(w, -7)}>
                The week before
              </Button>
              <Button variant="subtle" onClick={() => shift(w, 7)}>
                The week after
              </Button>
              <Button onClick={() => window.print()}>Print</Button>
            </p>
          </div>
          <div className={styles.days}>
            {w.days.map((d) => (
              <Column key={d.date} day={d} zone={w.zone} />
            ))}
          </div>
          <p className={styles.after}>
            {w.after.length > 0 ? (
              <>
                <b>The week after:</b>{" "}
                {w.after
                  .map((m) => `${date(m.at, w.zone)} ${clock(m.at, w.zone)} ${m.course} ${m.title}`)
                  .join(" · ")}
              </>
            ) : (
              "Nothing is due in the week after."
            )}
          </p>
          <p className={styles.foot}>Orario, for {w.who}</p>
        </div>
      )}
    </Standing>
  );
}

function span(w: Schemas["WeekSheet"]): string {
  const noon = (d: string) => `${d}T12:00:00Z`;
  return `${date(noon(w.from), "UTC")} to ${date(noon(w.to), "UTC")}`;
}

function Column({ day, zone }: { day: Schemas["PlanDay"]; zone: string }) {
  const [weekday, ...rest] = date(day.start, zone).split(" ");
  return (
    <section className={styles.day} aria-label={date(day.start, zone)}>
      <h2>
        {weekday} <span>{rest.join(" ")}</span>
      </h2>
      {day.busy.map((b) => (
        <p key={b.title + b.start} className={styles.busy}>
          {clock(b.start, zone)} {b.title}
        </p>
      ))}
      <ul>
        {day.slabs.map((s) => (
          <li key={s.assignment_id + s.start}>
            <span className={styles.time}>
              {clock(s.start, zone)} to {clock(s.end, zone)}
            </span>
            <b>{s.course}</b> {s.title}
            {s.last && <i> finish</i>}
          </li>
        ))}
      </ul>
      <ul className={styles.dues}>
        {day.dues.map((m) => (
          <li key={m.what + m.assignment_id} data-what={m.what}>
            <span className={styles.time}>{clock(m.at, zone)}</span>
            {m.what} <b>{m.course}</b> {m.title}
          </li>
        ))}
      </ul>
      {day.slabs.length + day.dues.length === 0 && <p className="soft">free</p>}
    </section>
  );
}
