import { Button, Checkbox } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import type { Desk } from "../api/client";
import { size } from "../shared/size";
import { firstSlot, SlotChoice } from "./SlotChoice";
import styles from "./Result.module.css";
import type { Chosen, Work, Workpiece } from "./work";

type Props = { piece: Workpiece; work: Work; desk: Desk; chosen: Chosen[]; aside: () => void };

/** What a tool has made, or is making: how far it is, what was done, and whether it goes into the bundle. */
export function Result(props: Props) {
  const { piece, work } = props;
  if (piece.state === "waiting")
    return (
      <section className={styles.result} aria-live="polite">
        <h2>
          {piece.steps > 1
            ? `Page ${Math.min(piece.done + 1, piece.steps)} of ${piece.steps}`
            : "Being made"}
        </h2>
        <progress
          max={piece.steps || undefined}
          value={piece.steps ? piece.done : undefined}
          aria-label="How far it is"
        />
        <p className="soft">It goes on if you leave this page.</p>
        <Button variant="default" onClick={() => work.drop.mutate(undefined)}>
          Cancel
        </Button>
      </section>
    );
  if (piece.state === "failed")
    return (
      <section className={styles.result} role="alert">
        <h2>It could not be made</h2>
        <p className="must">{piece.trouble}</p>
        <Button variant="default" onClick={() => work.drop.mutate(undefined)}>
          Put it aside
        </Button>
      </section>
    );
  return <Made {...props} />;
}

function Made({ piece, work, desk, chosen, aside }: Props) {
  const [left, setLeft] = useState<number[]>([]);
  const there = piece.of.filter((o) => desk.items.some((i) => i.version_id === o.version)).length;
  const [slot, setSlot] = useState(chosen[0]?.slot ?? firstSlot(desk));
  const files = piece.files.filter((f) => !left.includes(f.n)).map((f) => f.n);
  const take = (instead: boolean) => work.take.mutate({ files, instead, slot });
  const many = piece.files.length > 1;
  if (piece.state === "taken")
    return (
      <section className={styles.result} aria-live="polite">
        <h2>In the bundle</h2>
        <p className="mono">{piece.files.map((f) => f.name).join(", ")}</p>
        <p>
          <Link to={`/desk/${desk.line.id}?part=${desk.line.part_id}#bundle`}>
            See what the checks say
          </Link>
        </p>
        <Button
          variant="default"
          loading={work.back.isPending}
          onClick={() => work.back.mutate(undefined)}
        >
          Undo
        </Button>
      </section>
    );
  return (
    <section className={styles.result} aria-live="polite">
      <h2>Made, not in the bundle yet</h2>
      {piece.files.map((f) => (
        <p key={f.n} className={styles.file}>
          {many ? (
            <Checkbox
              label={f.name}
              checked={!left.includes(f.n)}
              onChange={(e) =>
                setLeft((l) => (e.currentTarget.checked ? l.filter((n) => n !== f.n) : [...l, f.n]))
              }
            />
          ) : (
            <span className="mono">{f.name}</span>
          )}
          <span className="soft figures">{size(f.bytes)}</span>
        </p>
      ))}
      {piece.said.length > 0 && (
        <ul className={styles.said}>
          {piece.said.map((s) => (
            <li key={s}>{s}</li>
          ))}
        </ul>
      )}
      {there === 0 && <SlotChoice desk={desk} label="Into" slot={slot} choose={setSlot} />}
      <div className={styles.acts}>
        <Button
          loading={work.take.isPending}
          disabled={files.length === 0}
          onClick={() => take(there > 0)}
        >
          {there === 0
            ? "Put it into the bundle"
            : there === 1
              ? "Put it in the file's place"
              : `Put it in place of the ${there} files`}
        </Button>
        {there > 0 && (
          <Button variant="default" disabled={files.length === 0} onClick={() => take(false)}>
            Beside {there === 1 ? "it" : "them"}
          </Button>
        )}
        <Button variant="subtle" onClick={aside}>
          Go on working
        </Button>
        <Button variant="subtle" onClick={() => work.drop.mutate(undefined)}>
          Throw it away
        </Button>
      </div>
    </section>
  );
}

/** What else was made and lies there. */
export function Lying({ work, look }: { work: Work; look: (piece: number) => void }) {
  const others = work.lying.filter((p) => p.id !== work.now?.id);
  if (others.length === 0) return null;
  const stands = { waiting: "being made", made: "made", failed: "could not be made", taken: "" };
  return (
    <ul className={styles.lying} aria-label="Made before">
      {others.map((p) => (
        <li key={p.id}>
          <Button variant="subtle" onClick={() => look(p.id)}>
            {p.files[0]?.name ?? p.of[0]?.name ?? p.tool}
          </Button>{" "}
          <span className="soft">{stands[p.state]}</span>
        </li>
      ))}
    </ul>
  );
}
