import type { Place } from "../api/client";
import styles from "./PunchStrip.module.css";

export const placeNames: Record<Place["place"], string> = {
  brief: "Brief",
  bundle: "Bundle",
  checks: "Checks",
  sent: "Sent",
  proof: "Proof",
  return: "Return",
};
const stateNames: Record<Place["state"], string> = {
  blank: "not begun",
  begun: "begun",
  punched: "punched",
};

/** One hole of a ticket. */
export function Hole({ state }: { state: Place["state"] }) {
  return <span className={styles.hole} data-state={state} />;
}

/** The six places in a row, as the list shows them. */
export function PunchStrip({ places }: { places: Place[] }) {
  return (
    <span
      className={styles.strip}
      role="img"
      aria-label={places.map((p) => `${placeNames[p.place]} ${stateNames[p.state]}`).join(", ")}
    >
      {places.map((p) => (
        <span key={p.place} title={`${placeNames[p.place]}: ${p.note || stateNames[p.state]}`}>
          <Hole state={p.state} />
        </span>
      ))}
    </span>
  );
}
