import { describe, expect, it } from "vitest";
import { moved, released, type Wish } from "./trial";

const slab = (start: string, end: string, pinned = false) => ({ start: `2027-01-11T${start}:00.000Z`, end: `2027-01-11T${end}:00.000Z`, pinned });
const none: Wish = { pins: [], not_before: [] };
const at = (clock: string) => new Date(`2027-01-11T${clock}:00Z`).getTime();

describe("a wish", () => {
  it("pins a slab where it was dragged, as long as it was", () => {
    expect(moved(none, 7, slab("10:00", "11:30"), at("14:00"), false)).toEqual({ pins: [{ assignment_id: 7, start: "2027-01-11T14:00:00.000Z", end: "2027-01-11T15:30:00.000Z" }], not_before: [] });
  });
  it("begins later when the first slab is moved later, and only then", () => {
    expect(moved(none, 7, slab("10:00", "11:00"), at("14:00"), true).not_before).toEqual([{ assignment_id: 7, at: "2027-01-11T14:00:00.000Z" }]);
    expect(moved(none, 7, slab("10:00", "11:00"), at("08:00"), true).not_before).toEqual([]);
  });
  it("replaces the pin that it moves and leaves those of others", () => {
    const once = moved({ pins: [{ assignment_id: 8, start: "2027-01-11T10:00:00.000Z", end: "2027-01-11T11:00:00.000Z" }], not_before: [] }, 7, slab("10:00", "11:00"), at("14:00"), false);
    const twice = moved(once, 7, slab("14:00", "15:00", true), at("16:00"), false);
    expect(twice.pins.map((p) => [p.assignment_id, p.start.slice(11, 13)])).toEqual([[8, "10"], [7, "16"]]);
    expect(released(twice, 7, slab("16:00", "17:00", true)).pins).toHaveLength(1);
  });
  it("forgets that work begins later when a slab is put before that", () => {
    const late = moved(none, 7, slab("10:00", "11:00"), at("14:00"), true);
    expect(moved(late, 7, slab("14:00", "15:00", true), at("09:00"), true).not_before).toEqual([]);
    expect(released(late, 7, slab("14:00", "15:00", true))).toEqual(none);
  });
});
