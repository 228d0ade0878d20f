import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router";
import { api, ask as fetchAnswer } from "../api/client";
import { useAct } from "../shared/queries";
import { Standing } from "../shared/Standing";
import styles from "./AddPage.module.css";
import type { Ask, Draft } from "./kinds";
import { Original } from "./Original";
import { Sheet } from "./Sheet";
import { useTitle } from "../shared/title";
import { keys } from "../shared/queryKeys";

/** An assignment of the student's own, to be changed or taken away. */
export default function ChangePage() {
  useTitle("Change an assignment");
  const id = Number(useParams().id);
  const draft = useQuery({
    queryKey: keys.draft(id),
    queryFn: () =>
      fetchAnswer(api.GET("/api/assignments/{id}/draft", { params: { path: { id } } })),
    staleTime: Infinity,
    gcTime: 0,
  });
  return <Standing query={draft}>{(d) => <Change start={d} />}</Standing>;
}

function Change({ start }: { start: Draft }) {
  const navigate = useNavigate();
  const [draft, setDraft] = useState(start);
  const [lit, setLit] = useState<Ask>();
  const [sure, setSure] = useState(false);
  const path = { params: { path: { id: start.id } } };
  const save = useAct(() =>
    fetchAnswer(api.PUT("/api/assignments/{id}/draft", { ...path, body: draft })),
  );
  const remove = useAct(
    () => fetchAnswer(api.DELETE("/api/assignments/{id}/draft", path)),
    ["draft", start.id],
  );
  return (
    <div className={styles.page}>
      <div className={styles.title}>
        <h1>{start.title}</h1>
        <Link to={`/desk/${start.id}`}>Back to its Desk</Link>
      </div>
      <div className={styles.split} data-read={draft.instructions !== ""}>
        <Sheet draft={draft} set={setDraft} light={setLit}>
          <Button
            loading={save.isPending}
            onClick={() =>
              save.mutate(undefined, { onSuccess: () => navigate(`/desk/${start.id}`) })
            }
          >
            Keep the changes
          </Button>
          {sure ? (
            <Button
              variant="default"
              loading={remove.isPending}
              onClick={() => remove.mutate(undefined, { onSuccess: () => navigate("/") })}
            >
              Really remove it
            </Button>
          ) : (
            <Button variant="subtle" onClick={() => setSure(true)}>
              Remove this assignment
            </Button>
          )}
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
