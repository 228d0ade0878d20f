import "@mantine/dates/styles.css";
import { DateInput } from "@mantine/dates";
import { useState } from "react";
import { printed, understood } from "./when";
import styles from "./WhenInput.module.css";

type Props = {
  label?: string;
  "aria-label"?: string;
  /** "2026-11-12T18:00", or empty. */
  value: string;
  onChange: (wall: string) => void;
  required?: boolean;
  autoFocus?: boolean;
};

const form = "ddd D MMM YYYY HH:mm"; // as times are printed everywhere

/** A time, typed as it is printed everywhere or chosen by its day; what is not understood is said. */
export function WhenInput({ value, onChange, label, ...more }: Props) {
  const [typed, setTyped] = useState<string>();
  const wrong = typed !== undefined && typed.trim() !== "" && !understood(typed, new Date());
  return (
    <DateInput
      {...more}
      label={label}
      withTime
      valueFormat={form}
      dateParser={(text) => understood(text, new Date())?.replace("T", " ").concat(":00") ?? null}
      value={value ? `${value.replace("T", " ")}:00` : null}
      onChange={(at) => {
        setTyped(undefined);
        onChange(at ? at.slice(0, 16).replace(" ", "T") : "");
      }}
      onInput={(e) => setTyped(e.currentTarget.value)}
      onBlur={() => !wrong && setTyped(undefined)}
      fixOnBlur={false}
      clearable={!more.required}
      weekendDays={[]}
      placeholder="Thu 12 Nov 18:00"
      error={wrong && `Write it like ${printed("2026-11-12T18:00")}, with the month by its name.`}
      popoverProps={{ withinPortal: true, shadow: undefined, radius: 2 }}
      classNames={{ day: styles.day, calendarHeaderControl: styles.head, weekday: styles.weekday }}
    />
  );
}
