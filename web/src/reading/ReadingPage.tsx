import { useParams } from "react-router";
import { api, ask, Refused } from "../api/client";
import { useAct, useReading } from "../shared/queries";
import { Nothing, Standing } from "../shared/Standing";
import { Room } from "./Room";

/** The report of a submission. */
export default function ReadingPage() {
  const id = Number(useParams().id);
  const reading = useReading(id);
  const handle = useAct((what: { n: number; how: string }) =>
    ask(
      api.PUT("/api/submissions/{id}/report/passages/{n}", {
        params: { path: { id, n: what.n } },
        body: { how: what.how },
      }),
    ),
  );
  if (reading.error instanceof Refused && reading.error.status === 404)
    return (
      <Nothing title="There is no report yet">
        A report appears here when the course site has made it. The Desk says when it is expected.
      </Nothing>
    );
  return (
    <Standing query={reading}>
      {(r) => <Room reading={r} handle={(n, how) => handle.mutate({ n, how })} />}
    </Standing>
  );
}
