import { Button } from "@mantine/core";
import { useState } from "react";
import { api, ask, type Schemas } from "../../api/client";
import { useAct, useMe } from "../../shared/queries";
import { moment } from "../../shared/time";
import type { ToolProps } from "../work";
import { SlotChoice } from "../SlotChoice";
import styles from "./PhoneTool.module.css";

/** A code for the telephone: what it photographs comes straight into the bundle. */
export default function PhoneTool({ desk }: ToolProps) {
  const zone = useMe().data?.zone ?? "UTC";
  const [slot, setSlot] = useState(desk.slots[0]?.name ?? "");
  const [pass, setPass] = useState<Schemas["Pass"]>();
  const give = useAct(() =>
    ask(
      api.POST("/api/assignments/{id}/passes", {
        params: { path: { id: desk.line.id } },
        body: { part: desk.line.part_id, slot },
      }),
    ).then(setPass),
  );
  const end = useAct((id: number) =>
    ask(api.DELETE("/api/passes/{id}", { params: { path: { id } } })).then(() =>
      setPass(undefined),
    ),
  );
  if (!pass)
    return (
      <>
        <SlotChoice desk={desk} label="Photographs go into" slot={slot} choose={setSlot} />
        <Button loading={give.isPending} onClick={() => give.mutate(undefined)}>
          Show the code
        </Button>
      </>
    );
  const local = /^https?:\/\/(localhost|127\.|\[::1\])/.test(pass.url);
  return (
    <>
      <svg
        viewBox={`0 0 ${pass.size} ${pass.size}`}
        className={styles.code}
        role="img"
        aria-label={`QR code of ${pass.url}`}
        shapeRendering="crispEdges"
      >
        <rect width={pass.size} height={pass.size} fill="#fff" />
        <path d={pass.code} fill="#000" />
      </svg>
      <p>
        Read it with your phone’s camera. One phone can use it, until {moment(pass.until, zone)}.
      </p>
      <p className="mono">{pass.url}</p>
      {local && (
        <p className="should">
          This address leads to this computer only. Open Orario under one that your phone reaches,
          and show the code again.
        </p>
      )}
      <Button variant="default" onClick={() => end.mutate(pass.id)}>
        End it now
      </Button>
    </>
  );
}
