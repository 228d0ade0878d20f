import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Desk } from "../api/client";
import { useAct } from "../shared/queries";
import styles from "./Work.module.css";

/** How long the work takes and how much is done, for the plan. */
export function Work({ desk }: { desk: Desk }) {
  const l = desk.line;
  const hours = (minutes: number) => String(Math.round((minutes / 60) * 100) / 100);
  const [effort, setEffort] = useState(hours(l.effort_minutes));
  const [done, setDone] = useState(hours(l.done_minutes));
  const save = useAct((body: { effort_minutes: number; done_minutes: number; enough: boolean }) =>
    ask(api.PUT("/api/assignments/{id}/work", { params: { path: { id: l.id } }, body })));
  if (["done", "closed", "waiting"].includes(l.state)) return null;
  const minutes = (text: string) => Math.round(Number(text.replace(",", ".")) * 60);
  const valid = [effort, done].every((t) => Number.isFinite(minutes(t)) && minutes(t) >= 0);
  const changed = effort !== hours(l.effort_minutes) || done !== hours(l.done_minutes);
  return (
    <form className={styles.work} onSubmit={(e) => { e.preventDefault(); save.mutate({ effort_minutes: minutes(effort), done_minutes: minutes(done), enough: false }); }}>
      <b>Work, in hours</b>
      <div>
        <TextInput label="in all" inputMode="decimal" value={effort} onChange={(e) => setEffort(e.target.value)} error={!valid} />
        <TextInput label="done" inputMode="decimal" value={done} onChange={(e) => setDone(e.target.value)} error={!valid} />
      </div>
      {changed && <Button type="submit" variant="default" disabled={!valid} loading={save.isPending}>Plan with this</Button>}
    </form>
  );
}
