import { Suspense, useState } from "react";
import { Link, useParams } from "react-router";
import { type Desk, Refused } from "../api/client";
import { useUploads } from "../desk/uploads";
import { useDrop, usePaste } from "../shared/drop";
import { useDesk } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { useTitle } from "../shared/title";
import { Underlined } from "../shared/Underlined";
import { Look } from "./bench/Look";
import { Lying, Result } from "./Result";
import { Tray } from "./Tray";
import { named, tools } from "./tools/tools";
import { addressed, type Chosen, useBench, useFiles, useWork } from "./work";
import styles from "./WorkshopPage.module.css";

/** Where files are made out of files: the item large, the tools beside it. */
export default function WorkshopPage() {
  const id = Number(useParams().id);
  const { part } = useBench();
  const desk = useDesk(id, part);
  useTitle(desk.data && `Workshop: ${desk.data.line.title}`);
  if (desk.error instanceof Refused && desk.error.status === 404)
    return (
      <Nothing title="There is no such assignment">
        It may have been taken back, or belong to another account.
      </Nothing>
    );
  return <Standing query={desk}>{(d) => <Bench desk={d} />}</Standing>;
}

function Bench({ desk }: { desk: Desk }) {
  const { id, part_id: part, title } = desk.line;
  const bench = useBench();
  const work = useWork(id, part, bench.piece, (piece) =>
    bench.change({ piece: piece ? String(piece) : "" }),
  );
  const items = useFiles(desk, bench.kept);
  const chosen = bench.versions.flatMap((v) => items.find((i) => i.version === v) ?? []);
  const uploads = useUploads(id, part);
  const { over, drag } = useDrop(uploads.start);
  usePaste(uploads.start);
  const tool = named(bench.tool);
  const [own, setOwn] = useState<HTMLElement | null>(null);
  const open = (name: string) => bench.change({ tool: name, piece: "" });
  const piece = work.now;
  const props = {
    desk,
    chosen,
    bench: own,
    choose: (list: Chosen[]) => bench.change({ v: addressed(list), piece: "" }),
    open: (name: string, version: number) =>
      bench.change({ tool: name, v: String(version), piece: "" }),
    busy: work.begin.isPending || piece?.state === "waiting",
    begin: (name: string, wishes: object, versions = chosen.map((c) => c.version)) =>
      work.begin.mutate({ tool: name, versions, wishes }),
  };
  const Panel = tool?.Panel;
  return (
    <div className={styles.page} data-over={over} {...drag}>
      <div className={styles.head}>
        <div>
          <h1>Workshop</h1>
          <p className="soft">
            For <Link to={`/desk/${id}?part=${part}#bundle`}>{title}</Link>. Whatever is made here
            is a new file; what you had stays as it is.
          </p>
        </div>
      </div>
      <Tray all={items} chosen={chosen} choose={props.choose} uploads={uploads} />
      <div className={styles.bench} id="bench">
        {piece && piece.files.length > 0 ? (
          <Look key={piece.id} made={piece} />
        ) : tool?.ownBench ? null : chosen.length > 0 ? (
          <Look key={chosen[0]!.version} chosen={chosen} />
        ) : (
          <div className={styles.nothing}>
            <p>
              <b>
                {items.length > 0 ? "Choose a file above, or drop one here" : "The bundle is empty"}
              </b>
            </p>
            <p className="soft">
              {items.length > 0
                ? "It is shown here, and the tools at the side say what can be made of it."
                : "Drop files here or add them above, type an answer, record something, or photograph a page with your phone."}
            </p>
          </div>
        )}
        <div ref={setOwn} hidden={(piece?.files.length ?? 0) > 0} />
      </div>
      <aside className={styles.side} aria-label="Tools">
        {piece && (
          <Result
            key={piece.id}
            piece={piece}
            work={work}
            desk={desk}
            chosen={chosen}
            aside={() => bench.change({ piece: "" })}
          />
        )}
        {desk.instructions && (
          <details className={styles.asked}>
            <summary>What is asked</summary>
            <Underlined text={desk.instructions} marks={desk.read} />
          </details>
        )}
        <Lying work={work} look={(p) => bench.change({ piece: String(p) })} />
        <ul className={styles.tools}>
          {tools.map((t) => {
            const why = t.fits(chosen);
            const isOpen = t.name === tool?.name;
            return (
              <li key={t.name} data-open={isOpen}>
                <button
                  type="button"
                  aria-expanded={isOpen}
                  disabled={why !== "" && !isOpen}
                  onClick={() => open(isOpen ? "" : t.name)}
                >
                  <b>{t.title}</b>
                  <span>{why || t.does}</span>
                </button>
                {isOpen && Panel && (
                  <div className={styles.panel}>
                    {why ? (
                      <p className="soft">{why}</p>
                    ) : (
                      <Suspense fallback={<p className="soft">Reading…</p>}>
                        <Panel {...props} />
                      </Suspense>
                    )}
                  </div>
                )}
              </li>
            );
          })}
        </ul>
      </aside>
    </div>
  );
}
