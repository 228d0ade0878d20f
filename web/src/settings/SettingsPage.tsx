import { Button, Checkbox, TextInput } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Schemas } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useAct, useSettings } from "../shared/queries";
import { Standing } from "../shared/Standing";
import { useTitle } from "../shared/title";
import { Announce } from "./Announce";
import { clockOf, type Hours, minutesOf, readHours, writeHours } from "./hours";
import styles from "./SettingsPage.module.css";

type Settings = Schemas["Settings"];

const days = ["Sunday", "Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday"];
const week = [1, 2, 3, 4, 5, 6, 0]; // weeks begin on Monday

/** When the student works, how far ahead she wants to be, and when Orario may speak. */
export default function SettingsPage() {
  useTitle("Hours and reminders");
  return <Standing query={useSettings()}>{(s) => <Form saved={s} />}</Standing>;
}

function Form({ saved }: { saved: Settings }) {
  const say = useSay();
  const [hours, setHours] = useState(saved.week.map((d) => writeHours(d as Hours[])));
  const [most, setMost] = useState(String(saved.most_a_day / 60));
  const [block, setBlock] = useState(String(saved.block));
  const [margin, setMargin] = useState(String(saved.margin / 60));
  const [quiet, setQuiet] = useState(saved.quiet_from !== saved.quiet_to);
  const [from, setFrom] = useState(clockOf(saved.quiet_from));
  const [to, setTo] = useState(clockOf(saved.quiet_to));
  const [mail, setMail] = useState(saved.mail);
  const [noKeys, setNoKeys] = useState(saved.no_keys);
  const read = hours.map(readHours);
  const wrong = read.map((h) => h === undefined);
  const save = useAct((body: Settings) => ask(api.PUT("/api/settings", { body })));
  const submit = () =>
    save.mutate(
      {
        week: read as Hours[][],
        most_a_day: Math.round(Number(most) * 60),
        block: Number(block),
        margin: Math.round(Number(margin) * 60),
        quiet_from: quiet ? minutesOf(from) : 0,
        quiet_to: quiet ? minutesOf(to) : 0,
        mail,
        no_keys: noKeys,
      },
      { onSuccess: () => say("Kept. The plan goes by it from now on.") },
    );
  const total = read.flatMap((d) => d ?? []).reduce((sum, h) => sum + h.to - h.from, 0);
  return (
    <form
      className={styles.page}
      onSubmit={(e) => {
        e.preventDefault();
        submit();
      }}
    >
      <h1>Your hours and reminders</h1>
      <div className={styles.sides}>
        <section aria-label="Hours for work">
          <h2>Hours for work</h2>
          <p className="soft">
            Write them like 17:00 to 21:00; several with commas; empty for none.{" "}
            {Math.round(total / 6) / 10} h a week.
          </p>
          {week.map((d) => (
            <div key={d} className={styles.day}>
              <label htmlFor={`day${d}`}>{days[d]}</label>
              <TextInput
                id={`day${d}`}
                value={hours[d]}
                placeholder="none"
                error={wrong[d] && "Write it like 17:00 to 21:00."}
                onChange={(e) => setHours(hours.map((h, i) => (i === d ? e.target.value : h)))}
              />
              <Bar hours={read[d] ?? []} />
            </div>
          ))}
          <p className="soft">
            Busy times are left out of these: <Link to="/calendars">give a calendar</Link>.
          </p>
        </section>
        <section aria-label="Planning and reminders" className={styles.rest}>
          <h2>Planning</h2>
          <TextInput
            label="At most so many hours a day"
            inputMode="decimal"
            value={most}
            onChange={(e) => setMost(e.target.value)}
          />
          <TextInput
            label="No stretch of work shorter than, minutes"
            inputMode="numeric"
            value={block}
            onChange={(e) => setBlock(e.target.value)}
          />
          <TextInput
            label="Send so many hours ahead of due"
            description="A day is common practice; send-by never comes later than this."
            inputMode="decimal"
            value={margin}
            onChange={(e) => setMargin(e.target.value)}
          />
          <h2>Reminders</h2>
          <p className="soft">They follow from the slack that is left, and each is said once.</p>
          <Checkbox
            label="Keep quiet for some hours"
            checked={quiet}
            onChange={(e) => {
              setQuiet(e.target.checked);
              if (e.target.checked && from === to) {
                setFrom("22:00");
                setTo("08:00");
              }
            }}
          />
          {quiet && (
            <div className={styles.pair}>
              <TextInput
                pattern="([01]?\d|2[0-3]):[0-5]\d"
                label="From"
                value={from}
                onChange={(e) => setFrom(e.target.value)}
              />
              <TextInput
                pattern="([01]?\d|2[0-3]):[0-5]\d"
                label="To"
                value={to}
                onChange={(e) => setTo(e.target.value)}
              />
            </div>
          )}
          <Checkbox
            label="Also by mail"
            checked={mail}
            onChange={(e) => setMail(e.target.checked)}
          />
          <Announce />
          <h2>Keys</h2>
          <Checkbox
            label="Single keys do something (press ? for which)"
            checked={!noKeys}
            onChange={(e) => setNoKeys(!e.target.checked)}
          />
        </section>
      </div>
      <p className={styles.foot}>
        <Button type="submit" disabled={wrong.includes(true)} loading={save.isPending}>
          Keep these settings
        </Button>
      </p>
    </form>
  );
}

/** A day's hours on a line from midnight to midnight. */
function Bar({ hours }: { hours: Hours[] }) {
  return (
    <svg viewBox="0 0 1440 40" preserveAspectRatio="none" className={styles.bar} aria-hidden="true">
      <line x1={0} x2={1440} y1={38} y2={38} />
      {hours.map((h) => (
        <rect key={h.from} x={h.from} width={h.to - h.from} y={12} height={26} />
      ))}
    </svg>
  );
}
