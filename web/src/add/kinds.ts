import type { Schemas } from "../api/client";

export type Draft = Schemas["Draft"];
export type Ask = Schemas["Ask"];

/** What can be asked for, how it is called, and how it can be written. */
export const kinds: { kind: string; label: string; example: string }[] = [
  { kind: "due", label: "due", example: "Fri 11 December, 23:59" },
  { kind: "opens", label: "opens", example: "Mon 7 December, 9:00" },
  { kind: "closes", label: "closes", example: "Mon 14 December, 12:00" },
  { kind: "late", label: "lateness", example: "10% per day, at most 50%" },
  { kind: "grace", label: "grace", example: "15 minutes" },
  { kind: "points", label: "points", example: "20" },
  { kind: "attempts", label: "attempts", example: "three attempts, the best counts" },
  { kind: "forms", label: "forms", example: "PDF or DOCX" },
  { kind: "slots", label: "files, by name", example: "a report and a data table" },
  { kind: "files", label: "number of files", example: "at most 3 files" },
  { kind: "name", label: "name of the file", example: "{family}_{course}_{title:dash}" },
  { kind: "max_bytes", label: "size of a file", example: "10 MB" },
  { kind: "max_total_bytes", label: "size in all", example: "25 MB" },
  { kind: "pages", label: "pages", example: "4 to 6 pages" },
  { kind: "words", label: "words", example: "800 to 1,000 words" },
  { kind: "seconds", label: "length", example: "3 minutes" },
  { kind: "text_layer", label: "text", example: "searchable" },
  { kind: "declaration", label: "declaration", example: "a declaration of own work" },
  { kind: "report", label: "similarity report", example: "checked for similarity, two drafts" },
  { kind: "route", label: "way", example: "by e-mail" },
  { kind: "style", label: "style", example: "12 pt, double spaced" },
];

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
