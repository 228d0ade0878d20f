import { Button, Kbd } from "@mantine/core";
import { type ReactNode, useMemo, useState } from "react";
import { Link } from "react-router";
import type { Reading } from "../api/client";
import { useKeys } from "../shared/keys";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import { Gutter } from "./Gutter";
import { Prose } from "./Prose";
import styles from "./Room.module.css";
import { Share } from "./Share";

type Props = {
  reading: Reading;
  /** Notes what was done about a passage. */
  handle: (n: number, how: string) => void;
  /** What stands at the foot beside the way back. */
  again?: ReactNode;
};

/** The student's text as a printed page, with its passages. */
export function Room({ reading: r, handle, again }: Props) {
  // Heaviest first; what does not count comes behind, in the text's order.
  const order = useMemo(
    () => [...r.passages].sort((a, b) => (a.rank || 1e6 + a.n) - (b.rank || 1e6 + b.n)),
    [r.passages],
  );
  const [at, setAt] = useState(0);
  const [open, setOpen] = useState(true);
  const current = order[at];
  const go = (to: number) => {
    const next = order[(to + order.length) % order.length];
    if (!next) return;
    setAt(order.indexOf(next));
    setOpen(true);
    document.getElementById(`passage-${next.n}`)?.scrollIntoView({ block: "center" });
  };
  const mark = (how: string) => current && handle(current.n, current.handled === how ? "" : how);
  useKeys({
    j: () => go(at + 1),
    k: () => go(at - 1),
    Enter: () => setOpen(!open),
    f: () => mark("fixed"),
    n: () => mark("not_mine"),
  });
  const desk = `/desk/${r.assignment_id}${r.own ? `?part=${r.part_id}` : ""}`;
  useTitle(`${r.title}, ${r.own ? "check" : "report"}`);
  return (
    <div className={styles.room}>
      <div className={styles.top}>
        <div>
          <h1>
            {r.title}, {r.own ? "own check before sending" : `report on attempt ${r.attempt}`}
          </h1>
          {r.own ? (
            <p className="soft">
              {r.course} · made {moment(r.made_at, r.zone)} · compared with {r.compared}. {r.doubt}
            </p>
          ) : (
            <p className="soft">
              {r.course} · made {moment(r.made_at, r.zone)} · {r.more_rounds} {r.foreseen}
            </p>
          )}
          {r.stale && <p className="should">The bundle has changed since this check.</p>}
        </div>
        <Share reading={r} />
      </div>
      <div className={styles.body}>
        <Gutter reading={r} current={current} go={(p) => go(order.indexOf(p))} />
        <Prose
          reading={r}
          current={open ? current : undefined}
          choose={(p) => {
            setAt(order.indexOf(p));
            setOpen(p !== current || !open);
          }}
          mark={(p, how) => handle(p.n, p.handled === how ? "" : how)}
        />
      </div>
      <div className={styles.foot}>
        {current ? (
          <span className={styles.place}>
            {current.rank > 0 ? `Passage ${current.rank} of ${r.counting}` : "Does not count"}
          </span>
        ) : (
          <span className={styles.place}>No passage matches</span>
        )}
        <span className="soft">
          {r.counting > 0 && "heaviest first"}
          {r.share_was !== null &&
            `${r.counting > 0 ? "; " : ""}${r.gone} gone since the last report`}
        </span>
        <span className={styles.acts}>
          {current && (
            <>
              <Button
                variant={current.handled === "fixed" ? "filled" : "default"}
                onClick={() => mark("fixed")}
              >
                Fixed <Kbd>f</Kbd>
              </Button>
              <Button
                variant={current.handled === "not_mine" ? "filled" : "default"}
                onClick={() => mark("not_mine")}
              >
                Not mine to fix <Kbd>n</Kbd>
              </Button>
              <Button variant="default" onClick={() => go(at + 1)}>
                Next <Kbd>j</Kbd>
              </Button>
            </>
          )}
          {again}
          {r.may_go_on ? (
            <Button component={Link} to={`${desk}#bundle`}>
              Add my corrected file
            </Button>
          ) : (
            <Button variant="default" component={Link} to={`${desk}#attempts`}>
              Back to the Desk
            </Button>
          )}
        </span>
      </div>
    </div>
  );
}
