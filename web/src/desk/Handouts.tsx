import { Button } from "@mantine/core";
import { Link } from "react-router";
import { api, ask, type Desk } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useAct } from "../shared/queries";

/** What the instructor gave out: to be kept, unpacked, and begun with. */
export function Handouts({ desk }: { desk: Desk }) {
  const say = useSay();
  const keep = useAct(() =>
    ask(
      api.POST("/api/assignments/{id}/handouts", { params: { path: { id: desk.line.id } } }),
    ).then((came) =>
      say(
        came.count === 0
          ? "They are all in the Library already."
          : `${came.count} ${came.count === 1 ? "file is" : "files are"} in the Library now. ${came.left.join(" ")}`,
      ),
    ),
  );
  const begin = useAct((id: number) =>
    ask(
      api.POST("/api/handouts/{id}/begin", {
        params: { path: { id } },
        body: { part: desk.line.part_id },
      }),
    ),
  );
  if (desk.handouts.length === 0) return null;
  const packed = (name: string) => name.toLowerCase().endsWith(".zip");
  return (
    <>
      {desk.handouts.map((h) => (
        <p key={h.id}>
          Handout:{" "}
          <a className="mono" href={`/api/handouts/${h.id}/content`} download>
            {h.name}
          </a>{" "}
          <span className="soft">{h.bytes}</span>{" "}
          {!packed(h.name) && !desk.submit.shut && (
            <Button variant="subtle" onClick={() => begin.mutate(h.id)}>
              Begin with it
            </Button>
          )}
        </p>
      ))}
      <p>
        <Button variant="default" loading={keep.isPending} onClick={() => keep.mutate(undefined)}>
          {desk.handouts.some((h) => packed(h.name))
            ? "Unpack them into the Library"
            : "Keep them in the Library"}
        </Button>{" "}
        <Link to="/library">Library</Link>
      </p>
    </>
  );
}
