import { NativeSelect, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useState } from "react";
import { Link } from "react-router";
import { type Schemas } from "../api/client";
import { useLibrary, useMe, useSpace } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { moment } from "../shared/time";
import { useTitle } from "../shared/title";
import { formOf } from "../shared/kinds";
import { Came } from "./Came";
import styles from "./LibraryPage.module.css";

type Version = Schemas["Version"];
const stands = { all: "sent or not", sent: "sent", kept: "not sent" };

/** Every file and version, the newest first. */
export default function LibraryPage() {
  useTitle("Library");
  const [words, setWords] = useState("");
  const [still] = useDebouncedValue(words.trim(), 250);
  return (
    <Standing query={useLibrary(still)}>
      {(versions) =>
        versions.length === 0 && still === "" && words === "" ? (
          <Nothing title="The library is empty">
            Every file that you add to a bundle, and every version made of it, is kept here.
          </Nothing>
        ) : (
          <>
            <Came />
            <Shelf versions={versions} words={words} search={setWords} />
          </>
        )
      }
    </Standing>
  );
}

type ShelfProps = { versions: Version[]; words: string; search: (words: string) => void };

function Shelf({ versions, words, search }: ShelfProps) {
  const [kind, setKind] = useState("");
  const [sent, setSent] = useState("all");
  const space = useSpace().data;
  const kinds = [...new Set(versions.map((v) => v.kind))].sort();
  const shown = versions.filter(
    (v) =>
      (!kind || v.kind === kind) && (sent === "all" || v.sent.length > 0 === (sent === "sent")),
  );
  return (
    <section className={styles.page}>
      <div className={styles.head}>
        <div>
          <h1>Library</h1>
          <p className="soft">
            Every file and version that you ever brought in or made here.{" "}
            <a href="/api/export" download>
              Take all with you
            </a>
            , with an index.
          </p>
          {space && (
            <p className={space.near ? "should" : "soft"}>
              {space.text}
              {space.near && ". Open a file that you no longer need to remove it."}
            </p>
          )}
        </div>
        <div className={styles.filters}>
          <TextInput
            label="Words in name or text"
            value={words}
            onChange={(e) => search(e.target.value)}
          />
          <NativeSelect
            label="Form"
            value={kind}
            onChange={(e) => setKind(e.target.value)}
            data={[
              { value: "", label: "any" },
              ...kinds.map((k) => ({ value: k, label: formOf(k) })),
            ]}
          />
          <NativeSelect
            label="Where it is"
            value={sent}
            onChange={(e) => setSent(e.target.value)}
            data={Object.entries(stands).map(([value, label]) => ({ value, label }))}
          />
        </div>
      </div>
      {shown.length === 0 ? (
        <p className="soft">No file is like that.</p>
      ) : (
        <ul>
          {shown.map((v) => (
            <Row key={v.id} version={v} />
          ))}
        </ul>
      )}
    </section>
  );
}

/** One version in a list. */
export function Row({ version: v }: { version: Version }) {
  const zone = useMe().data?.zone ?? "UTC";
  return (
    <li>
      <span className={styles.when}>{moment(v.added_at, zone)}</span>
      <div>
        <Link className="mono" to={`/library/${v.id}`}>
          {v.name}
        </Link>
        {v.around && <p className="soft">… {v.around} …</p>}
        {v.made_from && (
          <p className="soft">
            made from <span className="mono">{v.made_from}</span>
          </p>
        )}
      </div>
      <span className="soft figures">
        {formOf(v.kind)}, {v.bytes}
      </span>
      <Places version={v} />
    </li>
  );
}

/** Where a version was sent. */
export function Places({ version: v }: { version: Version }) {
  if (v.sent.length === 0) return <span className="soft">not sent</span>;
  return (
    <div>
      {v.sent.map((s) => (
        <p key={s.number + s.text}>
          <Link to={`/desk/${s.assignment_id}`}>{s.text}</Link>{" "}
          <span className="mono soft">{s.number}</span>
        </p>
      ))}
    </div>
  );
}
