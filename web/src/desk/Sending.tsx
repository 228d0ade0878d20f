import { Button } from "@mantine/core";
import { size } from "../shared/size";
import styles from "./Bundle.module.css";
import type { useUploads } from "./uploads";

/** Files on their way into the bundle: how far they are, and what went wrong. */
export function Sending({ uploads }: { uploads: ReturnType<typeof useUploads> }) {
  return (
    <>
      {uploads.sending.map((u) => (
        <div key={u.id} className={styles.upload}>
          <span className="mono">{u.name}</span>
          {u.trouble ? (
            <span className="must" role="alert">
              {u.trouble}
            </span>
          ) : (
            <>
              <progress
                value={u.sent}
                max={Math.max(1, u.total)}
                aria-label={`Upload of ${u.name}`}
              />
              <span className="soft figures">
                {u.reading
                  ? "looking at it…"
                  : `${Math.round((100 * u.sent) / Math.max(1, u.total))} % of ${size(u.total)}`}
              </span>
            </>
          )}
          {u.trouble && (
            <Button variant="subtle" onClick={() => uploads.again(u.id)}>
              Go on
            </Button>
          )}
          <Button variant="subtle" onClick={() => uploads.cancel(u.id)}>
            Cancel
          </Button>
        </div>
      ))}
    </>
  );
}
