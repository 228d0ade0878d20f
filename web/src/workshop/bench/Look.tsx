import { lazy, Suspense } from "react";
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../../api/client";
import { useVersion } from "../../shared/queries";
import { formOf, sortOf, uses } from "../../shared/kinds";
import { type Chosen, type Workpiece } from "../work";
import styles from "./Look.module.css";
import { keys } from "../../shared/queryKeys";

const PdfPages = lazy(() => import("./PdfPages"));

/** The item large: what was chosen, or what was made of it. */
export function Look({ chosen, made }: { chosen?: Chosen[]; made?: Workpiece }) {
  return (
    <div className={styles.look}>
      {made?.files.slice(0, 12).map((f) => (
        <Shown
          key={f.n}
          name={f.name}
          kind={f.kind}
          source={`/api/workpieces/${made.id}/files/${f.n}/content`}
          read={made.said.some((s) => s.includes("read in page"))}
        />
      ))}
      {chosen?.slice(0, 12).map((c) => (
        <Shown
          key={c.version}
          name={c.name}
          kind={c.kind}
          version={c.version}
          source={`/api/versions/${c.version}/content`}
        />
      ))}
    </div>
  );
}

type ShownProps = {
  name: string;
  kind: string;
  source: string;
  version?: number;
  read?: boolean;
  caption?: boolean;
};

/** One file, as large as there is room. */
export function Shown({ name, kind, source, version, read, caption = true }: ShownProps) {
  const sort = sortOf(kind);
  const pages = kind === "pdf" ? source : source.replace(/content$/, "pages");
  return (
    <figure className={styles.shown}>
      {caption && <figcaption className="mono">{name}</figcaption>}
      {kind === "pdf" || uses(kind).pages ? (
        <Suspense fallback={<p className="soft">Reading…</p>}>
          <PdfPages
            source={pages}
            name={name}
            read={read}
            instead={version && kind !== "pdf" && <Words version={version} />}
          />
        </Suspense>
      ) : sort === "picture" ? (
        version ? (
          <Upright version={version} name={name} />
        ) : (
          <img src={`${source}?show=1`} alt={`What ${name} shows`} />
        )
      ) : sort === "sound" ? (
        <audio controls src={`${source}?show=1`} aria-label={name} />
      ) : sort === "film" ? (
        <video controls src={`${source}?show=1`} aria-label={name} />
      ) : version ? (
        <Words version={version} />
      ) : (
        <Fetched source={source} kind={kind} />
      )}
    </figure>
  );
}

/** A picture of any form, upright. */
export const usePhotograph = (version: number) =>
  useQuery({
    queryKey: keys.photograph(version),
    queryFn: () =>
      ask(api.GET("/api/versions/{id}/photograph", { params: { path: { id: version } } })),
    staleTime: Infinity, // a version never changes
    retry: false,
  });

function Upright({ version, name }: { version: number; name: string }) {
  const photo = usePhotograph(version);
  if (photo.error) return <p className="must">{photo.error.message}</p>;
  if (!photo.data) return <p className="soft">Reading…</p>;
  return <img src={`data:image/jpeg;base64,${photo.data.jpeg}`} alt={`What ${name} shows`} />;
}

function Words({ version }: { version: number }) {
  const sheet = useVersion(version);
  if (!sheet.data) return <p className="soft">Reading…</p>;
  return sheet.data.text ? (
    <pre>{sheet.data.text}</pre>
  ) : (
    <p className="soft">There is nothing of it to be shown here. {sheet.data.facts.join(", ")}.</p>
  );
}

/** Text that was made; of what is no text, only that it is there. */
function Fetched({ source, kind }: { source: string; kind: string }) {
  const isText = ["txt", "md", "csv", "tsv", "rtf", "html"].includes(kind);
  const text = useQuery({
    queryKey: keys.made(source),
    queryFn: () => fetch(source).then((r) => r.text()),
    enabled: isText,
    staleTime: Infinity,
  });
  if (isText) return <pre>{text.data ?? "Reading…"}</pre>;
  return (
    <p className="soft">
      A file of this form ({formOf(kind)}) is not shown here.{" "}
      <a href={source} download>
        Look at it on your computer
      </a>
    </p>
  );
}
