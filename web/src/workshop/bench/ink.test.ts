import { expect, test } from "vitest";
import { drawn, type Field, mark, nothing, outline, touches } from "./ink";

const line = {
  colour: "#000000",
  width: 4,
  clear: false,
  pen: true,
  points: [
    [0, 0, 0.5],
    [50, 0, 0.5],
    [100, 0, 0.5],
  ] as [number, number, number][],
};

test("an outline lies around its points, and no further than its width", () => {
  const points = outline(line);
  expect(points.length).toBeGreaterThan(8);
  for (const [x, y] of points) {
    expect(Math.abs(y)).toBeLessThanOrEqual(4);
    expect(x).toBeGreaterThanOrEqual(-4);
    expect(x).toBeLessThanOrEqual(104);
  }
});

test("the eraser takes what it touches between two points, too", () => {
  expect(touches(line, 25, 5, 4)).toBe(true);
  expect(touches(line, 25, 12, 4)).toBe(false);
  expect(touches(line, 130, 0, 4)).toBe(false);
});

test("what was typed into a field becomes words in its box, and the field's own value goes", () => {
  const field = (name: string, kind: Field["kind"], value = ""): Field => ({
    name,
    kind,
    value,
    page: 1,
    box: [10, 20, 100, 16],
    many: false,
    options: [],
  });
  const fields = [field("name", "text"), field("same", "text", "as it was"), field("yes", "check")];
  const ink = { ...nothing, fields: { name: "Nerea", same: "as it was", yes: "yes" } };
  const sheet = drawn(
    ink,
    [
      { width: 400, height: 600 },
      { width: 400, height: 600 },
    ],
    fields,
  );
  expect(sheet.filled).toEqual(["name", "yes"]);
  expect(sheet.pages[0]!.words).toEqual([]);
  expect(sheet.pages[1]!.words.map((w) => w.text)).toEqual(["Nerea"]);
  expect(sheet.pages[1]!.strokes).toHaveLength(mark("cross", 0, 0, "#000000", 1).length);
  const { x, y, size } = sheet.pages[1]!.words[0]!;
  expect(x).toBeGreaterThanOrEqual(10);
  expect(y).toBeGreaterThanOrEqual(20);
  expect(y + size).toBeLessThanOrEqual(36);
});
