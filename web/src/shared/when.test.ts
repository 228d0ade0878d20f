import { describe, expect, it } from "vitest";
import { printed, understood } from "./when";

const today = new Date(2026, 10, 26); // Thursday

describe("a typed time", () => {
  it.each([
    ["Thu 12 Nov 2026 18:00", "2026-11-12T18:00"],
    ["Fri 11 December, 23:59", "2026-12-11T23:59"],
    ["27 nov 6 pm", "2026-11-27T18:00"],
    ["November 27th 9.30", "2026-11-27T09:30"],
    ["2027-01-20 17:00", "2027-01-20T17:00"],
    ["20.1. 17:00", "2027-01-20T17:00"],
    ["12 Nov 18:00", "2027-11-12T18:00"], // this year's has passed
    ["26 Nov noon", "2026-11-26T12:00"],
    ["27 Nov 12:30 am", "2026-11-27T00:30"],
    ["27 Nov", "2026-11-27T23:59"],
  ])("%s is %s", (text, want) => expect(understood(text, today)).toBe(want));

  it.each([
    "",
    "soon",
    "5/6 18:00",
    "31 Nov 18:00",
    "Mon 27 Nov 2026 18:00", // a Friday
    "27 Nov 25:00",
    "27 Nov 13 pm",
    "Nov 18:00",
  ])("%s is no time for certain", (text) => expect(understood(text, today)).toBeUndefined());

  it("is read as it is shown", () => {
    for (const wall of ["2026-11-12T18:00", "2028-02-29T00:00", "2026-12-31T23:59"])
      expect(understood(printed(wall), today)).toBe(wall);
  });
});
