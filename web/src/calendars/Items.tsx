import { Button } from "@mantine/core";
import { useState } from "react";
import type { Preview } from "../api/client";
import { moment, place } from "../shared/time";
import styles from "./CalendarsPage.module.css";

const words: Record<string, string> = {
  new: "new",
  changed: "changed",
  same: "as before",
  cancelled: "cancelled",
  past: "left out",
};

type Props = {
  preview: Preview;
  busy: boolean;
  again: boolean;
  taking: boolean;
  take: (without: string[]) => void;
  cancel: () => void;
};

/** What a calendar or table holds and what taking it over would do. */
export function Items({ preview: p, busy, again, taking, take, cancel }: Props) {
  const [out, setOut] = useState<Set<string>>(
    new Set(p.items.filter((i) => !i.take).map((i) => i.key)),
  );
  const taken = p.items.filter((i) => !out.has(i.key));
  const flip = (key: string) =>
    setOut((old) => {
      const next = new Set(old);
      if (!next.delete(key)) next.add(key);
      return next;
    });
  const count = taken.length + p.more;
  return (
    <>
      <div className={styles.head}>
        <h2>
          {p.items.length + p.more} in {p.name || "it"}
        </h2>
        <Button loading={taking} disabled={count === 0} onClick={() => take(busy ? [] : [...out])}>
          {busy
            ? "Keep these times free of work"
            : again
              ? `Take over ${count} and look again from time to time`
              : `Take over ${count}`}
        </Button>
        <Button variant="subtle" onClick={cancel}>
          Cancel
        </Button>
      </div>
      {p.items.length === 0 ? (
        <p className="soft">There is nothing in it that lies ahead.</p>
      ) : (
        <div className={styles.wide}>
          <table>
            <thead>
              <tr>
                {!busy && <th>Take</th>}
                <th>{busy ? "From" : "Due"}</th>
                <th>What</th>
                {!busy && (
                  <>
                    <th>Course</th>
                    <th>It is</th>
                  </>
                )}
              </tr>
            </thead>
            <tbody>
              {p.items.map((i) => (
                <tr key={i.key} data-out={!busy && out.has(i.key)}>
                  {!busy && (
                    <td>
                      <input
                        type="checkbox"
                        aria-label={`Take ${i.title}`}
                        checked={!out.has(i.key)}
                        disabled={i.now === "past"}
                        onChange={() => flip(i.key)}
                      />
                    </td>
                  )}
                  <td className="figures">
                    {moment(i.due, i.zone)} <span className="soft">{place(i.zone)}</span>
                  </td>
                  <td>{i.title}</td>
                  {!busy && (
                    <>
                      <td>{i.course}</td>
                      <td data-now={i.now}>
                        {words[i.now]}
                        {i.was && <span className="soft">, was {i.was.replace("T", " ")}</span>}
                      </td>
                    </>
                  )}
                </tr>
              ))}
            </tbody>
          </table>
          {p.more > 0 && (
            <p className="soft">and {p.more} more, which are taken over with the rest.</p>
          )}
          {p.left_out.length > 0 && (
            <div className="should">
              Left out, since it cannot be read:
              <ul>
                {p.left_out.map((l) => (
                  <li key={l}>{l}</li>
                ))}
              </ul>
            </div>
          )}
        </div>
      )}
    </>
  );
}
