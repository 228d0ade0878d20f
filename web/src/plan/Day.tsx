import { Button, Menu } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import type { Schemas } from "../api/client";
import { clock, date, fromWall, moment, place, toWall } from "../shared/time";
import { type Plan, useTrial } from "../shared/trial";
import { WhenInput } from "../shared/WhenInput";
import styles from "./PlanPage.module.css";

type PlanDay = Schemas["PlanDay"];
type Slab = Schemas["Slab"];

/** One day: its hours, what is planned in them, and what is due. */
export function Day({ day, plan }: { day: PlanDay; plan: Plan }) {
  const zone = plan.zone;
  const today = date(plan.now, zone) === date(day.start, zone);
  return (
    <section className={styles.day} data-today={today} aria-label={date(day.start, zone)}>
      <div className={styles.date}>
        <h2>{date(day.start, zone)}</h2>
        <p className="soft">{day.work ? `${day.work} of ${day.free}` : `${day.free} free`}</p>
        <Hours day={day} />
      </div>
      <div>
        {day.busy.map((b) => (
          <p key={b.title + b.start} className={styles.busy}>
            <span className="figures">
              {clock(b.start, zone)} to {clock(b.end, zone)}
            </span>{" "}
            {b.title}
          </p>
        ))}
        {day.slabs.map((s) => (
          <SlabRow key={s.assignment_id + s.start} slab={s} plan={plan} />
        ))}
        {day.slabs.length === 0 && day.dues.length === 0 && (
          <p className="soft">Nothing planned.</p>
        )}
      </div>
      <ul className={styles.dues}>
        {day.dues.map((m) => (
          <li key={m.what + m.assignment_id} data-what={m.what}>
            <span className="figures">{clock(m.at, m.zone)}</span> {m.what}{" "}
            <Link to={`/desk/${m.assignment_id}`}>
              {m.course} {m.title}
            </Link>
            {m.zone !== zone && (
              <span className="soft">
                {" "}
                {place(m.zone)}, {clock(m.at, zone)} here
              </span>
            )}
          </li>
        ))}
      </ul>
    </section>
  );
}

/** The day from midnight to midnight: the hours for work, the busy ones, and the planned work. */
function Hours({ day }: { day: PlanDay }) {
  const x = (t: string) =>
    Math.max(0, Math.min(1440, (new Date(t).getTime() - new Date(day.start).getTime()) / 60000));
  const bar = (from: string, to: string, kind: string) => (
    <rect
      key={kind + from}
      x={x(from)}
      width={Math.max(0, x(to) - x(from))}
      y={kind === "hours" ? 26 : 10}
      height={kind === "hours" ? 12 : 28}
      data-kind={kind}
    />
  );
  return (
    <svg
      viewBox="0 0 1440 40"
      preserveAspectRatio="none"
      className={styles.hours}
      aria-hidden="true"
    >
      {day.hours.map((h) => bar(h.start, h.end, "hours"))}
      {day.busy.map((b) => bar(b.start, b.end, "busy"))}
      {day.slabs.map((s) => bar(s.start, s.end, s.pinned ? "held" : "slab"))}
      <line x1={0} x2={1440} y1={39} y2={39} />
    </svg>
  );
}

/** A stretch of planned work; it can be moved and held by keys as well as by the mouse. */
function SlabRow({ slab: s, plan }: { slab: Slab; plan: Plan }) {
  const { shift, busy } = useTrial();
  const [moving, setMoving] = useState(false);
  const line = plan.lines.find((l) => l.assignment_id === s.assignment_id);
  const start = new Date(s.start).getTime();
  const to = (at?: number) =>
    shift({
      assignment_id: s.assignment_id,
      start: s.start,
      end: s.end,
      to: at === undefined ? null : new Date(at).toISOString(),
    });
  const acts: [string, () => void][] = [
    ["Move", () => setMoving(true)],
    ["A day later", () => to(start + 864e5)],
    s.pinned ? ["Let go", () => to()] : ["Hold here", () => to(start)],
  ];
  return (
    <div className={styles.slab} data-pinned={s.pinned}>
      <span className={styles.when}>
        {clock(s.start, plan.zone)}
        <br />
        {clock(s.end, plan.zone)}
      </span>
      <div>
        <Link to={`/desk/${s.assignment_id}`}>
          <b>{s.course}</b> {s.title}
        </Link>
        {s.last && (
          <span className="soft">
            {" "}
            done by then{line?.miss && <span className="must">, {line.miss}</span>}
          </span>
        )}
        {moving ? (
          <Elsewhere
            start={s.start}
            zone={plan.zone}
            to={(at) => {
              setMoving(false);
              to(at);
            }}
            cancel={() => setMoving(false)}
          />
        ) : (
          <>
            <p className={styles.acts} data-quiet>
              {acts.map(([name, act]) => (
                <Button key={name} variant="subtle" disabled={busy} onClick={act}>
                  {name}
                </Button>
              ))}
            </p>
            <Menu position="bottom-start">
              <Menu.Target>
                <Button variant="subtle" className={styles.touch}>
                  Change this stretch
                </Button>
              </Menu.Target>
              <Menu.Dropdown>
                {acts.map(([name, act]) => (
                  <Menu.Item key={name} onClick={act}>
                    {name}
                  </Menu.Item>
                ))}
              </Menu.Dropdown>
            </Menu>
          </>
        )}
      </div>
    </div>
  );
}

/** When a slab is moved to, in the student's zone. */
function Elsewhere({
  start,
  zone,
  to,
  cancel,
}: {
  start: string;
  zone: string;
  to: (at: number) => void;
  cancel: () => void;
}) {
  const [wall, setWall] = useState(toWall(start, zone));
  return (
    <form
      className={styles.acts}
      onSubmit={(e) => {
        e.preventDefault();
        to(fromWall(wall, zone).getTime());
      }}
    >
      <WhenInput
        aria-label={`New time, was ${moment(start, zone)}`}
        value={wall}
        onChange={setWall}
        required
        autoFocus
      />
      <Button type="submit">See what follows</Button>
      <Button variant="subtle" onClick={cancel}>
        Cancel
      </Button>
    </form>
  );
}
