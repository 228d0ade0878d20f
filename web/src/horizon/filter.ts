import type { Line } from "../api/client";
import { words } from "./words";

/** Which lines of the list are shown; kept in the page's address, so that it can be saved and shared. */
export type Filter = { state: string; course: string; week: string; text: string };

export const groups: Record<string, Line["state"][]> = {
  "to do": ["open", "late", "not_open", "sending"],
  waiting: ["waiting"],
  "came back": ["back"],
  past: ["done", "closed"],
  all: Object.keys(words) as Line["state"][],
};
export const weeks: Record<string, string> = {
  "": "any time",
  "0": "this week",
  "1": "next week",
  "2": "in two weeks",
};

export const readFilter = (q: URLSearchParams): Filter => ({
  state: groups[q.get("state") ?? ""] ? q.get("state")! : "all",
  course: q.get("course") ?? "",
  week: weeks[q.get("week") ?? "x"] ? q.get("week")! : "",
  text: q.get("text") ?? "",
});

export function writeFilter(f: Filter): string {
  const q = new URLSearchParams();
  if (f.state !== "all") q.set("state", f.state);
  if (f.course) q.set("course", f.course);
  if (f.week) q.set("week", f.week);
  if (f.text) q.set("text", f.text);
  return q.toString();
}

const aDay = 864e5;

/** Days from the Monday of one day's week to another day. Both are read as the zone shows them. */
function weeksApart(now: string, due: string, zone: string): number {
  const days = (at: string) =>
    Math.floor(
      new Date(
        `${new Intl.DateTimeFormat("en-CA", { timeZone: zone }).format(new Date(at))}T00:00:00Z`,
      ).getTime() / aDay,
    );
  const monday = days(now) - ((days(now) + 3) % 7); // day 0 was a Thursday
  return Math.floor((days(due) - monday) / 7);
}

export function applies(f: Filter, l: Line, now: string, zone: string): boolean {
  const text = f.text.trim().toLowerCase();
  return (
    groups[f.state]!.includes(l.state) &&
    (!f.course || String(l.course_id) === f.course) &&
    (f.week === "" || weeksApart(now, l.due, zone) === Number(f.week)) &&
    (!text || `${l.course} ${l.title} ${l.outcome} ${words[l.state]}`.toLowerCase().includes(text))
  );
}
