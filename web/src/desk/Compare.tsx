import { Button, SegmentedControl } from "@mantine/core";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask, type Desk } from "../api/client";
import { useAct, useCheckOwn, useOwnCheck, useSources } from "../shared/queries";
import { moment } from "../shared/time";
import { transfer } from "../shared/upload";
import styles from "./Compare.module.css";
import page from "./DeskPage.module.css";

/** The student's own check of the text, before anything is sent. */
export function Compare({ desk }: { desk: Desk }) {
  const { id, part_id, zone } = desk.line;
  const check = useOwnCheck(id, part_id).data;
  const make = useCheckOwn(id, part_id);
  const go = useNavigate();
  const room = `/desk/${id}/check?part=${part_id}`;
  return (
    <section id="compare" className={page.part}>
      <div className={styles.top}>
        <div>
          <h2>Compare before sending</h2>
          {check ? (
            <p>
              {check.summary}; checked {moment(check.made_at, zone)} against {check.compared}.{" "}
              {check.stale ? (
                <span className="should">The bundle has changed since.</span>
              ) : (
                <Link to={room}>Read it</Link>
              )}
            </p>
          ) : (
            <p>
              Finds what agrees with your own earlier work, the handouts and your sources, before
              the site does.
            </p>
          )}
        </div>
        <Button
          variant="default"
          disabled={desk.items.length === 0}
          loading={make.isPending}
          onClick={() => make.mutate(undefined, { onSuccess: () => void go(room) })}
        >
          {check ? "Compare again" : "Compare"}
        </Button>
      </div>
      <Sources id={id} course={desk.course.code} />
    </section>
  );
}

/** What the work is compared with beside what Orario has by itself. */
function Sources({ id, course }: { id: number; course: string }) {
  const sources = useSources(id).data ?? [];
  const [whole, setWhole] = useState("work");
  const picker = useRef<HTMLInputElement>(null);
  const add = useAct(async (files: File[]) => {
    for (const file of files) {
      const upload = await transfer(file, () => {}).id;
      await ask(
        api.POST("/api/assignments/{id}/sources", {
          params: { path: { id } },
          body: { upload, course: whole === "course" },
        }),
      );
    }
  });
  const remove = useAct((source: number) =>
    ask(api.DELETE("/api/sources/{id}", { params: { path: { id: source } } })),
  );
  return (
    <details className={styles.sources} open={sources.some((s) => s.trouble)}>
      <summary>
        {sources.length === 0
          ? "Add what you have read"
          : `${sources.length} ${sources.length === 1 ? "source" : "sources"} added`}
      </summary>
      <ul>
        {sources.map((s) => (
          <li key={s.id}>
            <Link className="mono" to={`/library/${s.version_id}`}>
              {s.name}
            </Link>{" "}
            {s.course && <span className="soft">for all of {course}</span>}{" "}
            {s.trouble && <span className="should">{s.trouble}</span>}
            <Button
              variant="subtle"
              aria-label={`Take out ${s.name}`}
              onClick={() => remove.mutate(s.id)}
            >
              Take out
            </Button>
          </li>
        ))}
      </ul>
      <div className={styles.add}>
        <SegmentedControl
          aria-label="For which work"
          value={whole}
          onChange={setWhole}
          data={[
            { value: "work", label: "For this work" },
            { value: "course", label: `For all of ${course}` },
          ]}
        />
        <Button variant="default" loading={add.isPending} onClick={() => picker.current?.click()}>
          Add a source
        </Button>
        <span className="soft">PDF, Word, OpenDocument, text or web page</span>
      </div>
      <input
        ref={picker}
        type="file"
        multiple
        hidden
        data-testid="source-picker"
        accept=".pdf,.docx,.odt,.txt,.md,.html,.htm"
        onChange={(e) => {
          const files = [...(e.target.files ?? [])];
          e.target.value = "";
          if (files.length > 0) add.mutate(files);
        }}
      />
    </details>
  );
}
