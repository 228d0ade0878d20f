import { Button, Kbd } from "@mantine/core";
import { useMemo, useState } from "react";
import { Link, useParams } from "react-router";
import { api, ask, type Reading, Refused } from "../api/client";
import { useKeys } from "../shared/keys";
import { useAct, useReading } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import { Gutter } from "./Gutter";
import { Prose } from "./Prose";
import styles from "./ReadingPage.module.css";
import { Share } from "./Share";

export default function ReadingPage() {
  const id = Number(useParams().id);
  const reading = useReading(id);
  if (reading.error instanceof Refused && reading.error.status === 404)
    return (
      <Nothing title="There is no report yet">
        A report appears here when the course site has made it. The Desk says when it is expected.
      </Nothing>
    );
  return <Standing query={reading}>{(r) => <Room reading={r} />}</Standing>;
}

/** The student's text as a printed page, with its passages. */
function Room({ reading: r }: { reading: Reading }) {
  // Heaviest first; what does not count comes behind, in the text's order.
  const order = useMemo(
    () => [...r.passages].sort((a, b) => (a.rank || 1e6 + a.n) - (b.rank || 1e6 + b.n)),
    [r.passages],
  );
  const [at, setAt] = useState(0);
  const [open, setOpen] = useState(true);
  const current = order[at];
  const counting = order.filter((p) => p.rank > 0).length;
  const handle = useAct((what: { n: number; how: string }) =>
    ask(
      api.PUT("/api/submissions/{id}/report/passages/{n}", {
        params: { path: { id: r.submission_id, n: what.n } },
        body: { how: what.how },
      }),
    ),
  );
  const go = (to: number) => {
    const next = order[(to + order.length) % order.length];
    if (!next) return;
    setAt(order.indexOf(next));
    setOpen(true);
    document.getElementById(`passage-${next.n}`)?.scrollIntoView({ block: "center" });
  };
  const mark = (how: string) =>
    current && handle.mutate({ n: current.n, how: current.handled === how ? "" : how });
  useKeys({
    j: () => go(at + 1),
    k: () => go(at - 1),
    Enter: () => setOpen(!open),
    f: () => mark("fixed"),
    n: () => mark("not_mine"),
  });
  useTitle(`${r.title}, report`);
  return (
    <div className={styles.room}>
      <div className={styles.top}>
        <div>
          <h1>
            {r.title}, report on attempt {r.attempt}
          </h1>
          <p className="soft">
            {r.course} · made {moment(r.made_at, r.zone)} · {r.more_rounds}
          </p>
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
          mark={(p, how) => handle.mutate({ n: p.n, how: p.handled === how ? "" : how })}
        />
      </div>
      <div className={styles.foot}>
        {current ? (
          <span className={styles.place}>
            {current.rank > 0 ? `Passage ${current.rank} of ${counting}` : "Does not count"}
          </span>
        ) : (
          <span className={styles.place}>No passage matches</span>
        )}
        <span className="soft">
          {counting > 0 && "heaviest first"}
          {r.share_was !== null &&
            `${counting > 0 ? "; " : ""}${r.gone} gone since the last report`}
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
          {r.may_go_on ? (
            <Button component={Link} to={`/desk/${r.assignment_id}#bundle`}>
              Add my corrected file
            </Button>
          ) : (
            <Button variant="default" component={Link} to={`/desk/${r.assignment_id}#attempts`}>
              Back to the Desk
            </Button>
          )}
        </span>
      </div>
    </div>
  );
}
