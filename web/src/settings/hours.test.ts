import { describe, expect, it } from "vitest";
import { readHours, writeHours } from "./hours";

describe("hours of a day", () => {
  it("are read as people write them, in order", () => {
    expect(readHours("19-21, 8:30 to 12.00")).toEqual([
      { from: 510, to: 720 },
      { from: 1140, to: 1260 },
    ]);
    expect(readHours("")).toEqual([]);
    expect(writeHours(readHours("20 to 24")!)).toBe("20:00 to 24:00");
  });
  it("are refused where they overlap or end before they begin", () => {
    for (const text of ["9 to 12, 11 to 13", "21:00 to 17:00", "9", "9:70 to 10", "9 to 25"])
      expect(readHours(text), text).toBeUndefined();
  });
});
