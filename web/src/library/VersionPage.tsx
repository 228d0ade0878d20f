import { Button } from "@mantine/core";
import { useState } from "react";
import { useNavigate, useParams } from "react-router";
import { api, ask, Refused, type Schemas } from "../api/client";
import { useAct, useMe, useVersion } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import { WordChanges } from "../shared/WordChanges";
import { Places, Row } from "./LibraryPage";
import styles from "./LibraryPage.module.css";

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
  return (
    <section className={styles.page}>
      <div className={styles.head}>
        <div>
          <h1 className={styles.name}>{v.name}</h1>
          <p className="soft">
            {v.kind.toUpperCase()}, added {moment(v.added_at, zone)}
            {v.made_from && (
              <>
                {" "}
                · made from <span className="mono">{v.made_from}</span>
              </>
            )}
          </p>
        </div>
        <div className={styles.acts}>
          {s.removable && <Remove id={v.id} />}
          <Button component="a" href={content} download>
            Download
          </Button>
        </div>
      </div>
      <div className={styles.sheet}>
        <div className={styles.preview}>
          {s.picture && <img src={`${content}?show=1`} alt={`What ${v.name} shows`} />}
          {s.text ? (
            <>
              <h2>Text in it</h2>
              <pre>{s.text}</pre>
              {s.cut && <p className="soft">There is more of it; download the file for all.</p>}
            </>
          ) : (
            !s.picture && <p className="soft">There is no text to show of this file.</p>
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
    </section>
  );
}

/** Removes a file for good, at the second press. */
function Remove({ id }: { id: number }) {
  const go = useNavigate();
  const [sure, setSure] = useState(false);
  const remove = useAct(() => ask(api.DELETE("/api/versions/{id}", { params: { path: { id } } })));
  if (!sure)
    return (
      <Button variant="default" onClick={() => setSure(true)}>
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
