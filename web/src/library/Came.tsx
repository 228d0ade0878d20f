import { Button } from "@mantine/core";
import { useNavigate, useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import { useAct, useVersion } from "../shared/queries";
import styles from "./Came.module.css";

/** What another program has just shared: it lies in the Library, and is asked where it belongs. */
export function Came() {
  const [query, setQuery] = useSearchParams();
  const ids = (query.get("came") ?? "").split(",").map(Number).filter(Boolean);
  if (ids.length === 0) return null;
  const settled = (id: number) => {
    const rest = ids.filter((x) => x !== id).join(",");
    setQuery(rest ? { came: rest } : {}, { replace: true });
  };
  return (
    <section className={styles.came} aria-label="Just shared">
      <h2>Where does it belong?</h2>
      <p className="soft">
        What you shared is kept in the Library. Put it into a bundle with one press, or leave it
        here.
      </p>
      {ids.map((id) => (
        <One key={id} id={id} settled={() => settled(id)} />
      ))}
    </section>
  );
}

const proposed = 3;

function One({ id, settled }: { id: number; settled: () => void }) {
  const sheet = useVersion(id).data;
  const go = useNavigate();
  const put = useAct((b: { assignment_id: number; part_id: number }) =>
    ask(
      api.POST("/api/assignments/{id}/items", {
        params: { path: { id: b.assignment_id } },
        body: { part: b.part_id, slot: "", version: id },
      }),
    ),
  );
  if (!sheet) return null;
  return (
    <div className={styles.one}>
      <p className="mono">{sheet.version.name}</p>
      <p className={styles.acts}>
        {sheet.belongs.slice(0, proposed).map((b, n) => (
          <Button
            key={b.part_id}
            variant={n === 0 ? "filled" : "default"}
            disabled={put.isPending}
            onClick={() =>
              put.mutate(b, {
                onSuccess: () => void go(`/desk/${b.assignment_id}?part=${b.part_id}`),
              })
            }
          >
            {b.text}
          </Button>
        ))}
        <Button variant="subtle" onClick={settled}>
          Only keep it
        </Button>
      </p>
    </div>
  );
}
