import { Button } from "@mantine/core";
import { useState } from "react";
import { Link, useNavigate } from "react-router";
import type { Horizon, Line } from "../api/client";
import { clock, date, place } from "../shared/time";
import styles from "./Moves.module.css";

const few = 6; // what a person looks at before doing one

/** What to do now, in order. */
export function Moves({
  moves,
  lines,
  home,
}: {
  moves: Horizon["moves"];
  lines: Line[];
  home: string;
}) {
  const navigate = useNavigate();
  const [all, setAll] = useState(false);
  const zone = (id: number) => lines.find((l) => l.id === id)?.zone ?? "UTC";
  return (
    <aside className={styles.moves} aria-label="Next moves">
      <div className={styles.head}>
        <h2>Next moves</h2>
        <nav aria-label="Also">
          <Link to="/add">Add</Link>
          <Link to="/plan">Plan</Link>
          <Link to="/week">Week</Link>
        </nav>
      </div>
      {moves.length === 0 && <p className="soft">Nothing needs to be done now.</p>}
      <ol>
        {(all ? moves : moves.slice(0, few)).map((m) => (
          <li key={`${m.assignment_id}${m.verb}`}>
            <span className={styles.when} data-weight={m.weight}>
              <small className={styles.what}>{m.latest_is}</small>
              {date(m.latest, zone(m.assignment_id))}
              <br />
              {clock(m.latest, zone(m.assignment_id))}
              {zone(m.assignment_id) !== home && <small>{place(zone(m.assignment_id))}</small>}
            </span>
            <div>
              {m.verb} <b>{m.title}</b> <span className={styles.code}>{m.course}</span>
              <p>{m.reason}</p>
              <Button
                variant="default"
                onClick={() =>
                  navigate(
                    m.place === "reading"
                      ? `/reading/${m.submission_id}`
                      : `/desk/${m.assignment_id}#${m.place}`,
                  )
                }
              >
                {m.button}
              </Button>
            </div>
          </li>
        ))}
      </ol>
      {moves.length > few && (
        <Button variant="subtle" onClick={() => setAll(!all)}>
          {all ? "Fewer" : `${moves.length - few} more`}
        </Button>
      )}
    </aside>
  );
}
