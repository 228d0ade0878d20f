import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { api, ask } from "../api/client";
import { useAct, useMe } from "../shared/queries";
import { moment } from "../shared/time";
import styles from "./CalendarsPage.module.css";
import { keys } from "../shared/queryKeys";

/** The calendars that were given, and the student's own as others can read it. */
export function Feeds() {
  const feeds =
    useQuery({ queryKey: keys.feeds, queryFn: () => ask(api.GET("/api/feeds")) }).data ?? [];
  const home = useMe().data?.zone ?? "UTC";
  const remove = useAct((id: number) =>
    ask(api.DELETE("/api/feeds/{id}", { params: { path: { id } } })),
  );
  const on =
    useQuery({ queryKey: keys.link, queryFn: () => ask(api.GET("/api/link")) }).data?.on ?? false;
  const renew = useAct(() => ask(api.POST("/api/link")));
  const link = renew.data?.url; // it is shown this once
  const revoke = useAct(() => ask(api.DELETE("/api/link")));
  return (
    <div className={styles.sides}>
      <section aria-label="Calendars given">
        <h2>Calendars given</h2>
        {feeds.length === 0 && (
          <p className="soft">
            None yet. A calendar with an address is looked at again every hour.
          </p>
        )}
        <ul className={styles.feeds}>
          {feeds.map((f) => (
            <li key={f.id}>
              <div>
                <b>{f.name}</b>{" "}
                <span className="soft">
                  {f.purpose === "busy"
                    ? "busy times"
                    : `what is due${f.course && ` in ${f.course}`}`}
                  {f.synced_at && `, looked at ${moment(f.synced_at, home)}`}
                </span>
                {f.url && <p className="mono">{f.url}</p>}
                {f.notice && <p className="must">{f.notice}</p>}
              </div>
              <Button variant="subtle" onClick={() => remove.mutate(f.id)}>
                Let go
              </Button>
            </li>
          ))}
        </ul>
      </section>
      <section aria-label="Yours for other programs" className={styles.out}>
        <h2>Yours, for other programs</h2>
        <p className="soft">
          A calendar program that knows this secret address shows every send-by and due time, with
          alarms, and your planned work.
        </p>
        {link && on && (
          <>
            <TextInput
              aria-label="Secret address"
              description="Copy it now: it is not shown again."
              readOnly
              value={link}
              onFocus={(e) => e.target.select()}
              classNames={{ input: "mono" }}
            />
            <Button variant="default" onClick={() => void navigator.clipboard.writeText(link)}>
              Copy
            </Button>
          </>
        )}
        {on ? (
          <p>
            {!link && <>A secret address is in use. </>}
            <Button variant="subtle" onClick={() => renew.mutate(undefined)}>
              Make a new one
            </Button>{" "}
            <Button variant="subtle" onClick={() => revoke.mutate(undefined)}>
              Stop it
            </Button>
          </p>
        ) : (
          <Button variant="default" onClick={() => renew.mutate(undefined)}>
            Make a secret address
          </Button>
        )}
        <p>
          <a href="/api/table" download>
            All assignments as a table (CSV)
          </a>
        </p>
      </section>
    </div>
  );
}
