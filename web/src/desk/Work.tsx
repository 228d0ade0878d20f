import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Desk } from "../api/client";
import { useAct } from "../shared/queries";
import styles from "./Work.module.css";

type Body = {
  effort_minutes: number;
  low_minutes: number;
  high_minutes: number;
  done_minutes: number;
  enough: boolean;
};

/** What the server is told about an assignment's work. */
export const useWork = (id: number) =>
  useAct((body: Body) =>
    ask(api.PUT("/api/assignments/{id}/work", { params: { path: { id } }, body })),
  );

const hours = (minutes: number) => (minutes ? String(Math.round((minutes / 60) * 100) / 100) : "");
const minutes = (text: string) => Math.round(Number(text.replace(",", ".") || "0") * 60);

/** How long the work takes and how much is done, for the plan. */
export function Work({ desk }: { desk: Desk }) {
  const l = desk.line;
  const [likely, setLikely] = useState(hours(desk.effort.likely));
  const [low, setLow] = useState(hours(desk.effort.low));
  const [high, setHigh] = useState(hours(desk.effort.high));
  const [three, setThree] = useState(desk.effort.high > 0);
  const [done, setDone] = useState(hours(l.done_minutes) || "0");
  const save = useWork(l.id);
  const log = useAct((n: number) =>
    ask(
      api.POST("/api/assignments/{id}/log", {
        params: { path: { id: l.id } },
        body: { minutes: n },
      }),
    ),
  );
  if (["done", "closed", "waiting"].includes(l.state)) return null;
  const texts = three ? [low, likely, high, done] : [likely, done];
  const valid = texts.every((t) => Number.isFinite(minutes(t)) && minutes(t) >= 0);
  const body = {
    effort_minutes: minutes(likely),
    low_minutes: three ? minutes(low) : 0,
    high_minutes: three ? minutes(high) : 0,
    done_minutes: minutes(done),
    enough: false,
  };
  const changed =
    body.effort_minutes !== desk.effort.likely ||
    body.low_minutes !== desk.effort.low ||
    body.high_minutes !== desk.effort.high ||
    body.done_minutes !== l.done_minutes;
  const field = (label: string, value: string, set: (t: string) => void) => (
    <TextInput
      label={label}
      inputMode="decimal"
      value={value}
      onChange={(e) => set(e.target.value)}
    />
  );
  return (
    <form
      className={styles.work}
      onSubmit={(e) => {
        e.preventDefault();
        save.mutate(body);
      }}
    >
      <b>Work, in hours</b>
      <div data-three={three}>
        {three && field("if all goes well", low, setLow)}
        {field(three ? "likely" : "in all", likely, setLikely)}
        {three && field("if little does", high, setHigh)}
        {field("done", done, setDone)}
      </div>
      {changed && (
        <Button type="submit" variant="default" disabled={!valid} loading={save.isPending}>
          Plan with this
        </Button>
      )}
      {l.estimate && <p className="soft">Planned: {l.estimate}</p>}
      <p className={styles.log}>
        {[15, 30, 60].map((n) => (
          <Button key={n} variant="subtle" disabled={log.isPending} onClick={() => log.mutate(n)}>
            + {n < 60 ? `${n} min` : "1 h"} done
          </Button>
        ))}
        {!three && (
          <Button
            variant="subtle"
            onClick={() => {
              setThree(true);
              setLow(likely);
              setHigh(likely);
            }}
          >
            I am not sure
          </Button>
        )}
      </p>
    </form>
  );
}
