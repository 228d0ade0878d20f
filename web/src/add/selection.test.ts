// @vitest-environment jsdom
import { afterEach, describe, expect, it } from "vitest";
import { chosenIn, words } from "./selection";

describe("words", () => {
  it("counts code points", () => {
    expect(words("🌊 by noon\n ok")).toEqual([
      { start: 0, end: 1 },
      { start: 2, end: 4 },
      { start: 5, end: 9 },
      { start: 11, end: 13 },
    ]);
  });
});

describe("chosenIn", () => {
  afterEach(() => document.body.replaceChildren());
  const select = (from: Node, start: number, to: Node, end: number) => {
    const s = document.getSelection()!;
    s.removeAllRanges();
    const range = document.createRange();
    range.setStart(from, start);
    range.setEnd(to, end);
    s.addRange(range);
    return s;
  };
  it("counts across the marks in the text", () => {
    document.body.innerHTML = "<p>no</p><div>🌊 is <mark>due by</mark> noon</div>";
    const box = document.querySelector("div")!;
    const [before, mark, after] = box.childNodes;
    expect(chosenIn(box, select(mark!.firstChild!, 4, after!, 5))).toEqual({ start: 9, end: 16 });
    expect(chosenIn(box, select(before!, 0, before!, 0))).toBeUndefined();
    expect(
      chosenIn(box, select(document.querySelector("p")!.firstChild!, 0, after!, 2)),
    ).toBeUndefined();
  });
});
