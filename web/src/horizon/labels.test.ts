import { describe, expect, it } from "vitest";
import { beside, Room, widthOf } from "./labels";

describe("words among marks", () => {
  it("stand right of their mark, or left of it where something is in the way", () => {
    const [right, left] = beside(100, 200, "species list");
    expect(new Room([]).take(beside(100, 200, "species list"))).toEqual(right);
    const bar = { x: 110, y: 180, w: 2, h: 20 };
    expect(new Room([bar]).take(beside(100, 200, "species list"))).toEqual(left);
    expect(left!.x + left!.w).toBeLessThan(100);
  });
  it("do not lie on each other, and are left out where there is no room", () => {
    const room = new Room([]);
    const places = beside(100, 200, "a");
    const taken = places.map(() => room.take(places));
    expect(new Set(taken.map((t) => `${t!.x},${t!.y}`)).size).toBe(places.length);
    expect(room.take(places)).toBeUndefined();
  });
  it("are reckoned wider than nothing", () => expect(widthOf("", "name")).toBeGreaterThan(0));
});
