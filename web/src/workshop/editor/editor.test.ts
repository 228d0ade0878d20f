// @vitest-environment jsdom
import { Editor } from "@tiptap/core";
import { afterEach, expect, test } from "vitest";
import { extensions } from "./extensions";
import { inlined, keepsAll, numbered } from "./notes";
import { referred, shownFrom, used } from "./pictures";

let editor: Editor | undefined;
afterEach(() => editor?.destroy());

/** Markdown as it is kept after it was open in the editor. */
function through(markdown: string): string {
  editor = new Editor({
    extensions: extensions((name) => `/shown/${name}`),
    content: inlined(markdown),
    contentType: "markdown",
  });
  return numbered(editor.getMarkdown());
}

test.each([
  [
    "headings and marks",
    "# Tides\n\nHigh *water* at **noon**, `x` and [a link](https://a.example/).",
  ],
  ["lists", "- one\n- two\n\n1. first\n2. second"],
  ["a quotation", "> Said by somebody."],
  ["a formula in a line", "The height is $h = \\frac{a}{b}$ here."],
  ["a formula by itself", "$$\n\\sum_{k=1}^{n} k\n$$"],
  ["prices", "It costs $5 and $6 a day."],
  ["a picture", "![The staff](the%20staff.jpg)"],
  ["footnotes", "One[^1] and two.[^2]\n\n[^1]: First words.\n[^2]: Second, with $x$ and 100 %.\n"],
  ["code", "```python\nx = [^1]\n```"],
  ["marks that are meant as such", "2 \\* 3 \\_ 4"],
])("%s stay as they are", (_, markdown) => {
  expect(through(markdown).trim()).toBe(markdown.trim());
});

test("a table stays one", () => {
  const rows = through("| Station | Height |\n|---|---|\n| North | 1.42 |").split("\n");
  const cells = rows.filter((r) => r.includes("|")).map((r) => r.split("|").map((c) => c.trim()));
  expect(cells[0]).toEqual(["", "Station", "Height", ""]);
  expect(cells[2]).toEqual(["", "North", "1.42", ""]);
});

test("what it holds is drawn, and pictures are shown from the bundle only", () => {
  through("$x^2$ ![The staff](the%20staff.jpg) One[^1]\n\n[^1]: Words.");
  expect(editor!.getHTML()).toContain('src="/shown/the%20staff.jpg"');
  expect(editor!.getHTML()).toContain('aria-label="Words."');
  const types: string[] = [];
  editor!.state.doc.descendants((n) => void types.push(n.type.name));
  expect(types).toEqual(expect.arrayContaining(["inlineMath", "image", "footnote"]));
});

test.each([
  [
    "numbers that do not follow",
    "A[^x] b[^7]\n\n[^7]: Seven.\n[^x]: Ex.",
    "A[^1] b[^2]\n\n[^1]: Ex.\n[^2]: Seven.\n",
  ],
  ["words over two lines", "A[^1]\n\n[^1]: One\n    and more.", "A[^1]\n\n[^1]: One and more.\n"],
  ["one that is nowhere", "A[^9] b", "A[^9] b"],
  ["one that nobody calls", "A\n\n[^1]: Lost.", "A"],
  ["one in code", "`[^1]` c[^1]\n\n[^1]: Words.", "`[^1]` c[^1]\n\n[^1]: Words.\n"],
  ["none", "Just text.", "Just text."],
])("footnotes: %s", (_, markdown, then) => {
  expect(numbered(inlined(markdown))).toBe(then);
});

test("a picture is referred to by its name, as the form that it comes out in", () => {
  const files = [
    { version: 7, name: "IMG 4711 (1).HEIC", kind: "heic", slot: "", said: "", library: false },
    { version: 8, name: "plot.png", kind: "png", slot: "", said: "", library: false },
    { version: 9, name: "data.csv", kind: "csv", slot: "", said: "", library: false },
  ];
  expect(referred(files[0]!)).toBe("IMG%204711%20%281%29.jpg");
  expect(used(files, "![a](plot.png) and ![b](data.csv)")).toEqual([8]);
  expect(used(files, `![a](${referred(files[0]!)})`)).toEqual([7]);
  const shown = shownFrom(files);
  expect(shown("plot.png")).toBe("/api/versions/8/content?show=1");
  expect(shown("https://a.example/track.gif")).toBe("");
  expect(shown("/etc/passwd")).toBe("");
});

test.each([
  ["what it shows", "#### Deep\n\nA *b* & $x^2$ [^n]\n\n[^n]: Note.", true],
  ["a table", "| a | b |\n|---|---|\n| 1 | 2 |", true],
  ["what is done", "- [x] done", false],
  ["an entity", "Caf&eacute; &amp; bar", false],
  ["a comment", "Kept <!-- not seen --> too", false],
  ["nothing", "", true],
])("%s is written by the editor without loss: %s, %s", (_, markdown, kept) => {
  expect(keepsAll(markdown, through(markdown))).toBe(kept);
});
