import { Button, Checkbox, Textarea } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Desk } from "../api/client";
import { useAct } from "../shared/queries";
import page from "./DeskPage.module.css";
import styles from "./SubmitPart.module.css";

/** What will happen, in one sentence, and the button that makes it happen. */
export function SubmitPart({ desk }: { desk: Desk }) {
  const s = desk.submit;
  const [declared, setDeclared] = useState(false);
  const [comment, setComment] = useState("");
  const [writing, setWriting] = useState(false);
  const submit = useAct(() =>
    ask(
      api.POST("/api/assignments/{id}/submissions", {
        params: { path: { id: desk.line.id } },
        body: { declared, comment, part: desk.line.part_id, seen: s.mark },
      }),
    ),
  );
  const may = s.ready && (declared || !s.declaration);
  return (
    <section id="sent" className={page.part}>
      <div className={styles.submit}>
        <div>
          <h2>Submit</h2>
          <p>{s.sentence}</p>
          {!s.shut && desk.items.length > 0 && (
            <div className={styles.more}>
              {s.declaration && (
                <Checkbox
                  label={s.declaration}
                  checked={declared}
                  onChange={(e) => setDeclared(e.target.checked)}
                />
              )}
              {writing ? (
                <Textarea
                  label="Comment to the instructor"
                  autosize
                  minRows={2}
                  maxLength={4000}
                  value={comment}
                  onChange={(e) => setComment(e.target.value)}
                />
              ) : (
                <Button variant="subtle" onClick={() => setWriting(true)}>
                  Add a comment to the instructor
                </Button>
              )}
            </div>
          )}
        </div>
        {!s.shut && (
          <div className={styles.press}>
            <Button
              disabled={!may}
              aria-describedby={may ? undefined : "why-not"}
              loading={submit.isPending}
              onClick={() =>
                submit.mutate(undefined, {
                  onSuccess: () => {
                    setDeclared(false);
                    setComment("");
                    setWriting(false);
                  },
                })
              }
            >
              {s.button}
            </Button>
            {!may && (
              <p id="why-not" className="soft">
                {s.why || "Confirm the declaration first."}
              </p>
            )}
          </div>
        )}
      </div>
    </section>
  );
}
