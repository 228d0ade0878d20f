import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Line } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useAct } from "../shared/queries";
import styles from "./LineList.module.css";

/** What can be done to all chosen assignments at once. */
export function Bulk({ lines, done }: { lines: Line[]; done: () => void }) {
  const say = useSay();
  const [hours, setHours] = useState("");
  const [sure, setSure] = useState(false);
  const act = useAct((what: { do: string; minutes: number }) =>
    ask(api.POST("/api/bulk", { body: { ids: lines.map((l) => l.id), ...what } })),
  );
  const run = (what: string, minutes = 0) =>
    act.mutate(
      { do: what, minutes },
      {
        onSuccess: (answer) => {
          say(answer.text);
          done();
        },
      },
    );
  const minutes = Math.round(Number(hours.replace(",", ".")) * 60);
  const own = lines.filter((l) => l.source !== "site").length;
  return (
    <div className={styles.bulk} role="group" aria-label="Chosen assignments">
      <b className="figures">{lines.length} chosen</b>
      <Button variant="default" onClick={() => run("enough")}>
        What was reached is enough
      </Button>
      {own > 0 && (
        <Button variant="default" onClick={() => run("sent")}>
          Note as sent
        </Button>
      )}
      <form
        onSubmit={(e) => {
          e.preventDefault();
          run("work", minutes);
        }}
      >
        <TextInput
          aria-label="Hours of work each"
          placeholder="hours of work"
          inputMode="decimal"
          value={hours}
          onChange={(e) => setHours(e.target.value)}
        />
        <Button variant="default" type="submit" disabled={!(minutes > 0)}>
          Set work
        </Button>
      </form>
      {own > 0 &&
        (sure ? (
          <Button onClick={() => run("remove")}>
            Really remove {own === lines.length ? lines.length : `the ${own} that are yours`}
          </Button>
        ) : (
          <Button variant="subtle" onClick={() => setSure(true)}>
            Remove
          </Button>
        ))}
      <Button variant="subtle" onClick={done}>
        Choose none
      </Button>
    </div>
  );
}
