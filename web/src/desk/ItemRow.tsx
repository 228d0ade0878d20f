import { Button, TextInput } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, type Desk, type Schemas } from "../api/client";
import { useAct } from "../shared/queries";
import { Findings, type Fix } from "./Findings";
import styles from "./ItemRow.module.css";

type Item = Schemas["Item"];
type Props = {
  item: Item;
  slots: Desk["slots"];
  findings: Schemas["Finding"][];
  workshop: string;
  earlier?: () => void;
  later?: () => void;
  removed: () => void;
};

/** One file of the bundle: its name before and after, its facts, its findings. */
export function ItemRow({ item, slots, findings, workshop, earlier, later, removed }: Props) {
  const path = { path: { id: item.id } };
  const fix = useAct((how: Fix | "revert") =>
    ask(api.POST("/api/items/{id}/fix", { params: path, body: { fix: how } })),
  );
  const stop = useAct(() => ask(api.DELETE("/api/items/{id}/fix", { params: path })));
  const remove = useAct(() => ask(api.DELETE("/api/items/{id}", { params: path })));
  const change = useAct((body: { name: string; slot: string }) =>
    ask(api.PUT("/api/items/{id}", { params: path, body })),
  );
  const [name, setName] = useState<string>();
  const becomes = findings.find((f) => f.becomes)?.becomes;
  const others = slots.filter((s) => s.name !== item.slot);
  return (
    <div className={styles.item}>
      <div>
        {name === undefined ? (
          <p className={styles.name}>
            {becomes ? (
              <>
                <span className={styles.old}>{item.name}</span> <span className="soft">→</span>{" "}
                <b>{becomes}</b>
              </>
            ) : (
              <b>{item.name}</b>
            )}
          </p>
        ) : (
          <form
            className={styles.rename}
            onSubmit={(e) => {
              e.preventDefault();
              change.mutate({ name, slot: "" }, { onSuccess: () => setName(undefined) });
            }}
          >
            <TextInput
              aria-label="Name of the file"
              value={name}
              onChange={(e) => setName(e.target.value)}
              classNames={{ input: "mono" }}
              autoFocus
            />
            <Button type="submit" loading={change.isPending}>
              Use this name
            </Button>
            <Button variant="subtle" onClick={() => setName(undefined)}>
              Leave it
            </Button>
          </form>
        )}
        {item.working ? (
          <p className={styles.working} role="status">
            <span className={styles.busy} aria-hidden />
            {item.working}{" "}
            <Button variant="subtle" onClick={() => stop.mutate(undefined)}>
              Cancel
            </Button>
          </p>
        ) : (
          <Findings findings={findings} fix={(how) => fix.mutate(how)} busy={fix.isPending} />
        )}
      </div>
      <div className={styles.facts}>
        {item.facts.map((f) => (
          <p key={f}>{f}</p>
        ))}
        {item.inherited && <p>from the attempt before</p>}
        {item.original !== item.name && (
          <p>
            came as <span className="mono">{item.original}</span>
          </p>
        )}
        <p className={styles.acts}>
          <Link to={`/library/${item.version_id}`}>Look at it</Link>
          <Link to={workshop}>Work on it</Link>
          {name === undefined && (
            <button type="button" onClick={() => setName(becomes ?? item.name)}>
              Another name
            </button>
          )}
          {item.converted && (
            <button type="button" onClick={() => fix.mutate("revert")}>
              Back to the original
            </button>
          )}
          {others.map((s) => (
            <button
              key={s.name}
              type="button"
              onClick={() => change.mutate({ name: "", slot: s.name })}
            >
              Move to {s.name}
            </button>
          ))}
          {earlier && (
            <button type="button" onClick={earlier}>
              Earlier
            </button>
          )}
          {later && (
            <button type="button" onClick={later}>
              Later
            </button>
          )}
          <button type="button" onClick={() => remove.mutate(undefined, { onSuccess: removed })}>
            Take out
          </button>
        </p>
      </div>
    </div>
  );
}
