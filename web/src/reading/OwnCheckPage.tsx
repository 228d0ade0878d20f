import { Button } from "@mantine/core";
import { useParams, useSearchParams } from "react-router";
import { api, ask } from "../api/client";
import { useAct, useCheckOwn, useOwnCheck } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { Room } from "./Room";

/** The student's own check of what is in the bundle. */
export default function OwnCheckPage() {
  const id = Number(useParams().id);
  const part = Number(useSearchParams()[0].get("part") ?? 0);
  const check = useOwnCheck(id, part);
  const make = useCheckOwn(id, part);
  const handle = useAct((what: { n: number; how: string }) =>
    ask(
      api.PUT("/api/assignments/{id}/check/passages/{n}", {
        params: { path: { id, n: what.n }, query: { part } },
        body: { how: what.how },
      }),
    ),
  );
  return (
    <Standing query={check}>
      {(r) =>
        r === null ? (
          <Nothing title="This was not checked yet">
            Press Compare on its Desk, under the bundle.
          </Nothing>
        ) : (
          <Room
            reading={r}
            handle={(n, how) => handle.mutate({ n, how })}
            again={
              r.stale && (
                <Button variant="default" loading={make.isPending} onClick={() => make.mutate()}>
                  Compare again
                </Button>
              )
            }
          />
        )
      }
    </Standing>
  );
}
