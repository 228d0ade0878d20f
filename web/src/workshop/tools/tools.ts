import { type ComponentType, lazy } from "react";
import { sortOf, uses } from "../../shared/kinds";
import { type Chosen, type ToolProps } from "../work";

export type Tool = {
  name: string;
  title: string;
  does: string;
  /** Why it cannot work on what was chosen, and what to choose; empty where it can. */
  fits: (chosen: Chosen[]) => string;
  ownBench?: boolean;
  Panel: ComponentType<ToolProps>;
};

const needs = (what: string, fit: (kind: string) => boolean, most: number) => (c: Chosen[]) =>
  c.length === 0 || !c.every((f) => fit(f.kind))
    ? `Choose ${what}`
    : c.length > most
      ? "Choose one file"
      : "";
const of =
  (...sorts: string[]) =>
  (kind: string) =>
    sorts.includes(sortOf(kind));
const always = () => "";

/** The tools, in the order in which they are found at the side. */
export const tools: Tool[] = [
  {
    name: "convert",
    title: "Convert",
    does: "Into another form, several into one, smaller, shorter",
    fits: needs("files to convert", (kind) => sortOf(kind) !== "", 100),
    Panel: lazy(() => import("./ConvertTool")),
  },
  {
    name: "pages",
    title: "Pages",
    does: "Order, turn and leave out pages of a PDF, or split it",
    fits: needs("a PDF", of("pdf"), 1),
    ownBench: true,
    Panel: lazy(() => import("./PagesTool")),
  },
  {
    name: "scan",
    title: "Scan",
    does: "Photographs become straight, clean pages",
    fits: needs("photographs", of("picture"), 60),
    ownBench: true,
    Panel: lazy(() => import("./ScanTool")),
  },
  {
    name: "searchable",
    title: "Read it",
    does: "Text over scanned pages, so that they can be searched",
    fits: needs("a PDF", of("pdf"), 1),
    Panel: lazy(() => import("./ReadTool")),
  },
  {
    name: "write",
    title: "Write on it",
    does: "With the pen, typed words, and into forms",
    fits: needs("a PDF or a picture", of("pdf", "picture"), 1),
    ownBench: true,
    Panel: lazy(() => import("./WriteTool")),
  },
  {
    name: "type",
    title: "Type",
    does: "An answer, with its words counted",
    fits: always,
    ownBench: true,
    Panel: lazy(() => import("./TypeTool")),
  },
  {
    name: "record",
    title: "Record",
    does: "Sound, camera or screen",
    fits: always,
    ownBench: true,
    Panel: lazy(() => import("./RecordTool")),
  },
  {
    name: "capture",
    title: "Capture",
    does: "A still of the screen, or of work held to the camera",
    fits: always,
    ownBench: true,
    Panel: lazy(() => import("./CaptureTool")),
  },
  {
    name: "phone",
    title: "Phone",
    does: "Photograph pages with it, straight into the bundle",
    fits: always,
    Panel: lazy(() => import("./PhoneTool")),
  },
  {
    name: "clean",
    title: "Clean",
    does: "Take out changes, comments, names, places",
    fits: needs("a document, PDF or picture", (kind) => uses(kind).cleaned, 1),
    Panel: lazy(() => import("./CleanTool")),
  },
  {
    name: "gather",
    title: "Gather",
    does: "Pieces of evidence, each under its heading, in one PDF",
    fits: needs("the pieces", of("pdf", "picture", "document", "sheet"), 60),
    ownBench: true,
    Panel: lazy(() => import("./GatherTool")),
  },
  {
    name: "pack",
    title: "Pack",
    does: "Several files into one ZIP",
    fits: (c) => (c.length > 0 ? "" : "Choose what belongs together"),
    Panel: lazy(() => import("./PackTool")),
  },
  {
    name: "unpack",
    title: "Unpack",
    does: "Take the files out of a ZIP",
    fits: needs("a ZIP", (kind) => kind === "zip", 1),
    Panel: lazy(() => import("./UnpackTool")),
  },
  {
    name: "link",
    title: "Link",
    does: "An address, with its date and what was there",
    fits: always,
    Panel: lazy(() => import("./LinkTool")),
  },
];

export const named = (name: string) => tools.find((t) => t.name === name);
