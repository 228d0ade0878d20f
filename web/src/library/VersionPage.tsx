import { Button, NativeSelect } from "@mantine/core";
import { lazy, Suspense, useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, Refused, type Schemas } from "../api/client";
import { useAct, useHorizon, useMe, useVersion } from "../shared/queries";
import { keys } from "../shared/queryKeys";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import { WordChanges } from "../shared/WordChanges";
import { Places, Row } from "./LibraryPage";
import { formOf, sortOf, uses } from "../shared/kinds";
import styles from "./LibraryPage.module.css";

const Shown = lazy(() => import("../workshop/bench/Look").then((m) => ({ default: m.Shown })));

/** One file: what it is, what is in it, where it went, and how it differs from the version before. */
export default function VersionPage() {
  const sheet = useVersion(Number(useParams().id));
  useTitle(sheet.data?.version.name);
  if (sheet.error instanceof Refused && sheet.error.status === 404)
    return (
      <Nothing title="There is no such file">
        It may belong to another account. The Library lists those that are yours.
      </Nothing>
    );
  return <Standing query={sheet}>{(s) => <Sheet sheet={s} />}</Standing>;
}

function Sheet({ sheet: s }: { sheet: Schemas["VersionSheet"] }) {
  const v = s.version;
  const zone = useMe().data?.zone ?? "UTC";
  const content = `/api/versions/${v.id}/content`;
  const shown = ["pdf", "picture", "sound", "film"].includes(sortOf(v.kind)) || uses(v.kind).pages;
  return (
    <section className={styles.page}>
      <div className={styles.head}>
        <div>
          <h1 className={styles.name}>{v.name}</h1>
          <p className="soft">
            {formOf(v.kind)}, added {moment(v.added_at, zone)}
            {v.made_from && (
              <>
                {" "}
                · made from <span className="mono">{v.made_from}</span>
              </>
            )}
          </p>
        </div>
        <div className={styles.acts}>
          <IntoBundle version={v.id} />
          <Button component="a" href={content} download>
            Download
          </Button>
        </div>
      </div>
      <div className={styles.sheet}>
        <div className={styles.preview}>
          {shown && (
            <Suspense>
              <Shown name={v.name} kind={v.kind} source={content} version={v.id} caption={false} />
            </Suspense>
          )}
          {s.text ? (
            <details open={!shown}>
              <summary>Text in it</summary>
              <pre>{s.text}</pre>
              {s.cut && <p className="soft">There is more of it; download the file for all.</p>}
            </details>
          ) : (
            !shown && <p className="soft">There is no text to show of this file.</p>
          )}
        </div>
        <div className={styles.about}>
          <h2>Facts</h2>
          {s.facts.map((f) => (
            <p key={f}>{f}</p>
          ))}
          <p className="mono soft">SHA-256 {v.digest}</p>
          {s.problems.map((p) => (
            <p key={p.code + p.message} className="should">
              {p.message}
            </p>
          ))}
          <h2>Where it went</h2>
          <Places version={v} />
          {s.changes && (
            <>
              <h2>Since the version before</h2>
              <WordChanges changes={s.changes} title={`Beside ${s.before}`} />
            </>
          )}
        </div>
      </div>
      {s.versions.length > 0 && (
        <>
          <h2>Other versions</h2>
          <ul>
            {s.versions.map((x) => (
              <Row key={x.id} version={x} />
            ))}
          </ul>
        </>
      )}
      {s.removable && (
        <p className={styles.last}>
          <Remove id={v.id} />
        </p>
      )}
    </section>
  );
}

/** Puts a file of the library into the bundle of work that is open. */
function IntoBundle({ version }: { version: number }) {
  const go = useNavigate();
  const lines = useHorizon().data?.lines ?? [];
  const open = lines.filter((l) => ["open", "late", "back"].includes(l.state));
  const put = useAct((l: { id: number; part_id: number }) =>
    ask(
      api.POST("/api/assignments/{id}/items", {
        params: { path: { id: l.id } },
        body: { part: l.part_id, slot: "", version },
      }),
    ).then(() => go(`/desk/${l.id}?part=${l.part_id}#bundle`)),
  );
  if (open.length === 0) return null;
  return (
    <NativeSelect
      aria-label="Put it into the bundle of"
      value=""
      disabled={put.isPending}
      onChange={(e) => {
        const line = open.find((l) => `${l.id}/${l.part_id}` === e.target.value);
        if (line) put.mutate(line);
      }}
      data={[
        { value: "", label: "Put it into the bundle of…" },
        ...open.map((l) => ({ value: `${l.id}/${l.part_id}`, label: `${l.course}: ${l.title}` })),
      ]}
    />
  );
}

/** Removes a file for good, at the second press. */
function Remove({ id }: { id: number }) {
  const go = useNavigate();
  const [sure, setSure] = useState(false);
  const remove = useAct(
    () => ask(api.DELETE("/api/versions/{id}", { params: { path: { id } } })),
    keys.version(id),
  );
  if (!sure)
    return (
      <Button variant="subtle" onClick={() => setSure(true)}>
        Remove for good
      </Button>
    );
  return (
    <>
      <span className="soft">Nothing was sent with it. It can not be had back.</span>
      <Button variant="default" autoFocus onClick={() => setSure(false)}>
        Keep it
      </Button>
      <Button
        color="red"
        loading={remove.isPending}
        onClick={() => remove.mutate(undefined, { onSuccess: () => void go("/library") })}
      >
        Remove
      </Button>
    </>
  );
}
