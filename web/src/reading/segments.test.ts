import { describe, expect, it } from "vitest";
import { paragraphs, type Passage } from "./segments";

const passage = (n: number, start: number, end: number, excluded = ""): Passage => ({
  n,
  start,
  end,
  excluded,
  remedy: "rewrite",
  share: 0,
  exact: 1,
  words: 1,
  source: "s",
  source_title: "S",
  before: "",
  match: "",
  after: "",
  advice: "",
  handled: "",
  rank: n,
  foreseen: null,
  also: [],
});

describe("paragraphs", () => {
  it("counts code points, not units", () => {
    const [p] = paragraphs("🌊🌊 tide and ebb", [passage(1, 3, 7)]);
    expect(p!.segments.map((s) => s.text)).toEqual(["🌊🌊 ", "tide", " and ebb"]);
  });
  it("breaks at blank lines and pages, and keeps a passage that crosses them whole", () => {
    const list = paragraphs("one two\n\nthree\nfour\ffive", [passage(1, 4, 14)]);
    expect(list.map((p) => p.segments.map((s) => s.text).join(""))).toEqual([
      "one two",
      "three\nfour",
      "five",
    ]);
    expect(list[0]!.begins).toHaveLength(1);
    expect(list[1]!.begins).toHaveLength(0);
    expect(list[0]!.segments[1]!.last).toBe(false);
    expect(list[1]!.segments[0]!.last).toBe(true);
  });
  it("takes a short line between long ones for the end of a paragraph", () => {
    const long = "a line as long as the page allows, which is some sixty letters";
    const list = paragraphs(`${long}\nand its end.\n${long}\n${long}`, []);
    expect(list.map((p) => p.segments[0]!.text)).toEqual([
      `${long}\nand its end.`,
      `${long}\n${long}`,
    ]);
  });
  it("gives overlapping text to the passage that counts", () => {
    const [p] = paragraphs("abcdef", [passage(1, 0, 6, "handout"), passage(2, 2, 4)]);
    expect(p!.segments.map((s) => [s.text, s.passage?.n])).toEqual([
      ["ab", 1],
      ["cd", 2],
      ["ef", 1],
    ]);
  });
  it("keeps the full stop with the passage before it, and what is not broken into lines as paragraphs", () => {
    const long = "a ".repeat(150);
    const list = paragraphs(`Purpose\n${long}\nThe end. More`, [passage(1, 312, 316)]);
    expect(list.map((p) => p.segments[0]!.text.trim().length > 0)).toEqual([true, true, true]);
    const end = list[2]!.segments.find((s) => s.last)!;
    expect([end.text, end.after]).toEqual([" end", "."]);
  });
});
