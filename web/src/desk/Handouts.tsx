import { Button } from "@mantine/core";
import { useState } from "react";
import { Link } from "react-router";
import { api, ask, Refused, type Desk } from "../api/client";
import { useSay } from "../shared/Announcer";
import { useAct } from "../shared/queries";
import styles from "./Brief.module.css";

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
  const [asked, setAsked] = useState<{ id: number; text: string }>();
  const begin = useAct(async (b: { id: number; where?: "instead" | "beside" }) => {
    setAsked(undefined);
    const path = "/api/handouts/{id}/begin";
    try {
      await ask(
        api.POST(path, {
          params: { path: { id: b.id } },
          body: { part: desk.line.part_id, where: b.where },
        }),
      );
    } catch (error) {
      if (!(error instanceof Refused) || error.status !== 409) throw error;
      setAsked({ id: b.id, text: error.message });
    }
  });
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
            <Button
              variant="subtle"
              loading={begin.isPending}
              onClick={() => begin.mutate({ id: h.id })}
            >
              Begin with it
            </Button>
          )}
          {asked?.id === h.id && (
            <span role="alert" className={styles.asked}>
              {asked.text}{" "}
              <Button autoFocus onClick={() => begin.mutate({ id: h.id, where: "instead" })}>
                In its place
              </Button>{" "}
              <Button variant="default" onClick={() => begin.mutate({ id: h.id, where: "beside" })}>
                Beside it
              </Button>{" "}
              <Button variant="subtle" onClick={() => setAsked(undefined)}>
                Neither
              </Button>
            </span>
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
