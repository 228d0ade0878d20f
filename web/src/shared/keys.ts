import { useEffect, useRef } from "react";
import { useSettings } from "./queries";

/** What a key press types, as far as keys are told apart: `null` for one that is not ours. */
export function keyOf(
  e: Pick<KeyboardEvent, "key" | "ctrlKey" | "metaKey" | "altKey" | "defaultPrevented"> & {
    getModifierState: (key: string) => boolean;
  },
): string | null {
  if (e.defaultPrevented || e.metaKey) return null;
  // AltGr, with which some keyboards type "[", counts as Ctrl and Alt on some systems.
  if ((e.ctrlKey || e.altKey) && !e.getModifierState("AltGraph")) return null;
  return e.key.length === 1 ? e.key.toLowerCase() : e.key;
}

/** Whether text is typed into an element, so that single keys belong to it. */
export function typing(target: EventTarget | null): boolean {
  if (!(target instanceof HTMLElement)) return false;
  if (target.isContentEditable || target instanceof HTMLTextAreaElement) return true;
  if (target instanceof HTMLSelectElement) return true;
  return (
    target instanceof HTMLInputElement &&
    !["checkbox", "radio", "button", "submit", "reset", "range", "file"].includes(target.type)
  );
}

/** Whether Enter already means something where it is pressed. */
const presses = (target: EventTarget | null) =>
  target instanceof HTMLElement && target.closest("a, button, input, [role=button]") !== null;

/**
 * Single keys, by the character that they type, whatever a keyboard needs for it. They do nothing while
 * text is typed, or where the student has switched them off (WCAG 2.2, 2.1.4).
 */
export function useKeys(keys: Record<string, () => void>) {
  const off = useSettings().data?.no_keys ?? false;
  const latest = useRef(keys);
  useEffect(() => {
    latest.current = keys;
  });
  useEffect(() => {
    if (off) return;
    const press = (e: KeyboardEvent) => {
      const key = keyOf(e);
      const act = key === null || typing(e.target) ? undefined : latest.current[key];
      if (!act || (key === "Enter" && presses(e.target))) return;
      e.preventDefault();
      act();
    };
    document.addEventListener("keydown", press);
    return () => document.removeEventListener("keydown", press);
  }, [off]);
}
