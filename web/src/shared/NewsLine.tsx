import { useMutationState } from "@tanstack/react-query";
import { useEffect, useSyncExternalStore } from "react";
import { Link } from "react-router";
import { useSaid } from "./Announcer";
import { useLine } from "./live";
import styles from "./NewsLine.module.css";
import { useHorizon } from "./queries";
import { clock, date, moment, place } from "./time";

const online = (changed: () => void) => {
  window.addEventListener("online", changed);
  window.addEventListener("offline", changed);
  return () => {
    window.removeEventListener("online", changed);
    window.removeEventListener("offline", changed);
  };
};

/** How many changes wait to be sent, because the browser has no network. */
function useUnsent(): number {
  const n = useMutationState({ filters: { predicate: (m) => m.state.isPaused } }).length;
  useEffect(() => {
    if (n === 0) return;
    const ask = (e: BeforeUnloadEvent) => e.preventDefault();
    window.addEventListener("beforeunload", ask);
    return () => window.removeEventListener("beforeunload", ask);
  }, [n]);
  return n;
}

/**
 * The line under the ribbon: what has just happened, or whether news arrives, and the time. It has its own
 * room, so that nothing that is pressed is ever covered.
 */
export function NewsLine() {
  const { said, close } = useSaid();
  const line = useLine();
  const connected = useSyncExternalStore(online, () => navigator.onLine);
  const unsent = useUnsent();
  const horizon = useHorizon().data;
  const now = horizon && (
    <span className={styles.now}>
      {date(horizon.now, horizon.zone)} {clock(horizon.now, horizon.zone)} {place(horizon.zone)}
    </span>
  );
  return (
    <div className={styles.line} data-tone={said?.tone}>
      <p role="status" aria-live="polite">
        {said ? said.text : standing(connected, line.up, unsent) || <Next />}
      </p>
      {said && (
        <button type="button" className={styles.close} onClick={close}>
          Close
        </button>
      )}
      {now}
    </div>
  );
}

/** The first of the next moves, on every page. */
function Next() {
  const horizon = useHorizon().data;
  const move = horizon?.moves[0];
  if (!move) return null;
  const zone = horizon.lines.find((l) => l.id === move.assignment_id)?.zone ?? horizon.zone;
  return (
    <>
      <span className="soft">Next:</span> {move.verb.toLowerCase()}{" "}
      <Link to={`/desk/${move.assignment_id}`}>{move.title}</Link>,{" "}
      <span className="figures">
        {move.latest_is} {moment(move.latest, zone)}
      </span>
    </>
  );
}

/** Whether news arrives, in a sentence; nothing where all is well. */
function standing(connected: boolean, up: boolean, unsent: number): string {
  const kept =
    unsent > 0
      ? ` ${unsent === 1 ? "One change waits" : `${unsent} changes wait`} to be sent; keep this page open.`
      : "";
  if (!connected) return `No network. What you see is from before.${kept}`;
  if (!up)
    return `Orario cannot be reached; it is tried again. What you see is from before.${kept}`;
  return kept.trim();
}
