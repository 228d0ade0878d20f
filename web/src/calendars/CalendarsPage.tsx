import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { api, ask, type Import, type Preview, type Schemas } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useDrop } from "../shared/drop";
import { useAct, useCourses } from "../shared/queries";
import { transfer } from "../shared/upload";
import styles from "./CalendarsPage.module.css";
import { Feeds } from "./Feeds";
import { Matcher } from "./Matcher";
import { Items } from "./Items";
import { useTitle } from "../shared/title";

const purposes = [
  { value: "due", label: "what is due" },
  { value: "busy", label: "when I am busy" },
];

/** Calendars and tables in: looked at first, then taken over. */
export default function CalendarsPage() {
  useTitle("Calendars");
  const say = useSay();
  const courses = (useCourses().data ?? []).filter((c) => !c.archived);
  const [source, setSource] = useState<Import>({
    upload: "",
    url: "",
    name: "",
    purpose: "due",
    course_id: 0,
    columns: [],
    without: [],
    again: false,
  });
  const [preview, setPreview] = useState<Preview>();
  const picker = useRef<HTMLInputElement>(null);
  const look = useAct((i: Import) => ask(api.POST("/api/imports/preview", { body: i })));
  const take = useAct((i: Import) => ask(api.POST("/api/imports", { body: i })));
  const show = (i: Import) => {
    setSource(i);
    look.mutate(i, { onSuccess: (p) => setPreview(p as Preview) });
  };
  const file = async (f?: File) => {
    if (!f) return;
    try {
      show({
        ...source,
        url: "",
        again: false,
        columns: [],
        without: [],
        name: f.name,
        upload: await transfer(f, () => {}).id,
      });
    } catch (error) {
      say((error as Error).message, "trouble");
    }
  };
  const finish = (without: string[]) =>
    take.mutate(
      { ...source, without, columns: preview?.columns ?? [] },
      {
        onSuccess: (done) => {
          say(told(done as Schemas["Imported"]));
          setPreview(undefined);
          setSource({ ...source, upload: "", url: "", name: "" });
        },
      },
    );
  const { over, drag } = useDrop((files) => void file(files[0]));
  return (
    <div className={styles.page}>
      <h1>Calendars and tables</h1>
      <p className="soft">
        Nothing is taken over before you have seen it, and nothing comes twice: a second time only
        what changed is changed.
      </p>
      <section
        className={styles.source}
        data-over={over}
        {...drag}
        aria-label="Where it comes from"
      >
        <NativeSelect
          label="It says"
          data={purposes}
          value={source.purpose}
          onChange={(e) => {
            const next = { ...source, purpose: e.target.value };
            if (preview) show(next);
            else setSource(next);
          }}
        />
        {source.purpose === "due" && (
          <NativeSelect
            label="Course"
            value={String(source.course_id)}
            onChange={(e) => {
              const next = { ...source, course_id: Number(e.target.value) };
              if (preview) show(next);
              else setSource(next);
            }}
            data={[
              { value: "0", label: "by the names in it" },
              ...courses.map((c) => ({ value: String(c.id), label: c.code })),
            ]}
          />
        )}
        <form
          onSubmit={(e) => {
            e.preventDefault();
            show({
              ...source,
              upload: "",
              again: true,
              columns: [],
              without: [],
              name: source.name || new URL(source.url.replace(/^webcal/, "https")).hostname,
            });
          }}
        >
          <TextInput
            label="An address"
            placeholder="https://… or webcal://…"
            value={source.url}
            onChange={(e) => setSource({ ...source, url: e.target.value })}
            type="url"
            required
          />
          <Button type="submit" variant="default" loading={look.isPending && source.url !== ""}>
            Look at it
          </Button>
        </form>
        <div>
          <span className="soft">or a file, .ics or .csv</span>
          <Button variant="default" onClick={() => picker.current?.click()}>
            {over ? "Let go to look at it" : "Choose or drop a file"}
          </Button>
        </div>
        <input
          ref={picker}
          type="file"
          hidden
          accept=".ics,.csv,.tsv,.txt"
          data-testid="calendar"
          onChange={(e) => {
            void file(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </section>
      {preview && (
        <section aria-label="What it holds" className={styles.preview}>
          {preview.kind === "table" && (
            <Matcher preview={preview} match={(columns) => show({ ...source, columns })} />
          )}
          {preview.trouble && (
            <p className="must" role="alert">
              {preview.trouble}
            </p>
          )}
          {!preview.trouble && (
            <Items
              key={source.upload + source.url + source.course_id}
              preview={preview}
              busy={source.purpose === "busy"}
              again={source.again}
              taking={take.isPending}
              take={finish}
              cancel={() => setPreview(undefined)}
            />
          )}
        </section>
      )}
      <Feeds />
    </div>
  );
}

function told(d: Schemas["Imported"]): string {
  if (d.busy > 0) return `${d.busy} busy times are kept out of your plan.`;
  const parts = [
    d.added && `${d.added} new`,
    d.changed && `${d.changed} changed`,
    d.cancelled && `${d.cancelled} cancelled`,
    d.same && `${d.same} as before`,
  ].filter(Boolean);
  return parts.length ? `Taken over: ${parts.join(", ")}.` : "Nothing in it was new.";
}
