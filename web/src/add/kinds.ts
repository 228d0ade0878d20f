import list from "./kinds.json";
import type { Schemas } from "../api/client";

export type Draft = Schemas["Draft"];
export type Ask = Schemas["Ask"];

/** What can be asked for, how it is called, and how it can be written: see the table's source, package brief. */
export const kinds: { kind: string; label: string; example: string }[] = list;

export const isTime = (kind: string) => kind === "due" || kind === "opens" || kind === "closes";

export const empty: Draft = {
  id: 0,
  title: "",
  course_id: 0,
  new_course: "",
  instructions: "",
  weight: 0,
  minutes: 0,
  asks: [],
  questions: [],
};
