import { Button } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Horizon } from "../api/client";
import { useAct } from "../shared/queries";
import styles from "./Changes.module.css";

const kinds: Record<string, string> = {
  new: "new",
  changed: "changed",
  handout: "handout",
  report: "report",
  return: "came back",
  reminder: "reminder",
  refused: "refused",
};
const few = 3;

/** What happened since changes were last looked at, each once, until it is seen. */
export function Changes({ changes }: { changes: Horizon["changes"] }) {
  const [all, setAll] = useState(false);
  const seen = useAct((id: number) => ask(api.POST("/api/changes/seen", { body: { id } })));
  if (changes.length === 0) return null;
  const shown = all ? changes : changes.slice(0, few);
  return (
    <section className={styles.changes} aria-label="Since you last looked">
      <h2>Since you last looked</h2>
      <ul>
        {shown.map((c) => (
          <li key={c.id} data-kind={c.kind}>
            <span className={styles.kind}>{kinds[c.kind] ?? c.kind}</span>
            {c.assignment_id > 0 ? <Link to={`/desk/${c.assignment_id}`}>{c.text}</Link> : c.text}
          </li>
        ))}
      </ul>
      <div>
        {changes.length > few && (
          <Button variant="subtle" onClick={() => setAll(!all)}>
            {all ? "Fewer" : `All ${changes.length}`}
          </Button>
        )}
        <Button
          variant="default"
          loading={seen.isPending}
          onClick={() => seen.mutate(changes[0]!.id)}
        >
          Seen
        </Button>
      </div>
    </section>
  );
}
