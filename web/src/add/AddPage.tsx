import { Button, Textarea, TextInput } from "@mantine/core";
import { useRef, useState } from "react";
import { Link, useNavigate } from "react-router";
import { api, ask as fetchAnswer } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useDrop } from "../shared/drop";
import { useAct } from "../shared/queries";
import { transfer, type Transfer } from "../shared/upload";
import styles from "./AddPage.module.css";
import { type Ask, type Draft, empty } from "./kinds";
import { Original } from "./Original";
import { Sheet } from "./Sheet";
import { Understood } from "./Understood";
import { useTitle } from "../shared/title";

/** A new assignment: typed in one line, read in instructions, or filled in by hand. */
export default function AddPage() {
  useTitle("Add an assignment");
  const navigate = useNavigate();
  const say = useSay();
  const [draft, setDraft] = useState<Draft>();
  const [lit, setLit] = useState<Ask>();
  const keep = useAct((d: Draft) => fetchAnswer(api.POST("/api/assignments", { body: d })));
  const save = (open: boolean) =>
    keep.mutate(draft!, {
      onSuccess: (made) => {
        say(`${draft!.title} is kept.`);
        if (open) navigate(`/desk/${made.id}`);
        else setDraft(undefined);
      },
    });
  if (!draft) return <Begin take={setDraft} />;
  return (
    <div className={styles.page}>
      <div className={styles.title}>
        <h1>{draft.instructions ? "What the instructions ask for" : "A new assignment"}</h1>
        <Button variant="subtle" onClick={() => setDraft(undefined)}>
          Begin again
        </Button>
      </div>
      <div className={styles.split} data-read={draft.instructions !== ""}>
        <Sheet draft={draft} set={setDraft} light={setLit}>
          <Button
            autoFocus={!draft.instructions}
            loading={keep.isPending}
            onClick={() => save(true)}
          >
            Keep this assignment
          </Button>
          <Button variant="default" disabled={keep.isPending} onClick={() => save(false)}>
            Keep it and add another
          </Button>
        </Sheet>
        <Original
          draft={draft}
          lit={lit}
          add={(a) => setDraft({ ...draft, asks: [...draft.asks, a] })}
        />
      </div>
    </div>
  );
}

function Begin({ take }: { take: (d: Draft) => void }) {
  const [line, setLine] = useState("");
  const [text, setText] = useState("");
  const [share, setShare] = useState<number>();
  const running = useRef<Transfer>(undefined);
  const picker = useRef<HTMLInputElement>(null);
  const say = useSay();
  const type = useAct(() => fetchAnswer(api.POST("/api/drafts/line", { body: { line } })));
  const read = useAct((what: { text: string; upload: string }) =>
    fetchAnswer(api.POST("/api/drafts/text", { body: { course_id: 0, ...what } })),
  );
  const file = async (f?: File) => {
    if (!f) return;
    try {
      setShare(0);
      running.current = transfer(f, setShare);
      take((await read.mutateAsync({ text: "", upload: await running.current.id })) as Draft);
    } catch (error) {
      if (!read.isError) say((error as Error).message, "trouble");
    }
    setShare(undefined);
  };
  const { over, drag } = useDrop((files) => void file(files[0]));
  return (
    <div className={styles.page}>
      <h1>Add an assignment</h1>
      <form
        className={styles.line}
        onSubmit={(e) => {
          e.preventDefault();
          type.mutate(undefined, { onSuccess: (d) => take(d as Draft) });
        }}
      >
        <TextInput
          label="In one line"
          description="Course, title, due time, points, form, hours of work (~3h): in any order."
          placeholder="lab 5 HYD Fri 23:59 20p pdf ~3h"
          value={line}
          onChange={(e) => setLine(e.target.value)}
          autoFocus
          required
        />
        <Button type="submit" loading={type.isPending}>
          Go on with it
        </Button>
        <Understood line={line} />
      </form>
      <form
        className={styles.paste}
        data-over={over}
        {...drag}
        onSubmit={(e) => {
          e.preventDefault();
          read.mutate({ text, upload: "" }, { onSuccess: (d) => take(d as Draft) });
        }}
      >
        <Textarea
          label="From the instructions"
          description="Paste what the instructor wrote, or drop the file: text, PDF or a document."
          autosize
          minRows={7}
          maxRows={18}
          value={text}
          onChange={(e) => setText(e.target.value)}
          onPaste={(e) => {
            const f = e.clipboardData.files[0];
            if (f) {
              e.preventDefault();
              void file(f);
            }
          }}
        />
        <div>
          <Button
            type="submit"
            disabled={!text.trim()}
            loading={read.isPending && share === undefined}
          >
            Read it
          </Button>
          <Button variant="default" onClick={() => picker.current?.click()}>
            Choose a file
          </Button>
          {share !== undefined && (
            <>
              <progress value={share} max={1} aria-label="Upload" />
              <span className="soft">
                {share < 1 ? `${Math.round(100 * share)} %` : "reading it…"}
              </span>
              <Button
                variant="subtle"
                onClick={() => {
                  running.current?.cancel();
                  setShare(undefined);
                }}
              >
                Cancel
              </Button>
            </>
          )}
          {over && <b>Let go to read it</b>}
        </div>
        <input
          ref={picker}
          type="file"
          hidden
          data-testid="instructions"
          accept=".txt,.md,.pdf,.docx,.odt,.rtf,.html"
          onChange={(e) => {
            void file(e.target.files?.[0]);
            e.target.value = "";
          }}
        />
      </form>
      <p className={styles.others}>
        Or{" "}
        <button type="button" onClick={() => take(empty)}>
          fill in an empty sheet
        </button>
        , or <Link to="/calendars">take over a calendar or a table</Link>.
      </p>
    </div>
  );
}
