import { describe, expect, it } from "vitest";
import { elsewhere, fromWall, midnights, moment, place, toWall } from "./time";

describe("times", () => {
  it("are printed like a timetable's, in the zone asked for", () => {
    expect(moment("2026-11-12T18:00:00Z", "Europe/Lisbon")).toBe("Thu 12 Nov 18:00");
    expect(moment("2026-11-12T23:30:00Z", "America/Halifax")).toBe("Thu 12 Nov 19:30");
    expect(moment("2026-11-12T00:00:00Z", "Europe/Lisbon")).toBe("Thu 12 Nov 00:00");
    expect(place("America/Halifax")).toBe("Halifax");
  });
  it("name the other zone only where it differs", () => {
    expect(elsewhere("2026-11-12T18:00:00Z", "Europe/Lisbon", "Europe/Lisbon")).toBeUndefined();
    expect(elsewhere("2026-11-12T16:00:00Z", "America/Halifax", "Europe/Lisbon")).toBe(
      "16:00 Lisbon",
    );
    expect(elsewhere("2026-11-12T02:00:00Z", "America/Halifax", "Europe/Lisbon")).toBe(
      "Thu 12 Nov 02:00 Lisbon",
    );
  });
  it("know the midnights of days that are not 24 hours long", () => {
    // The clocks of Lisbon go back on 25 October 2026 (tz database).
    const days = midnights(
      new Date("2026-10-24T12:00:00Z"),
      new Date("2026-10-27T12:00:00Z"),
      "Europe/Lisbon",
    );
    expect(days.map((d) => d.toISOString())).toEqual([
      "2026-10-24T23:00:00.000Z",
      "2026-10-26T00:00:00.000Z",
      "2026-10-27T00:00:00.000Z",
    ]);
  });
  it("go into a date field and come back, in any zone and across changes of the clocks", () => {
    expect(toWall("2027-01-11T22:30:00Z", "America/Halifax")).toBe("2027-01-11T18:30");
    expect(fromWall("2027-07-01T09:00", "Europe/Lisbon").toISOString()).toBe(
      "2027-07-01T08:00:00.000Z",
    );
    for (const zone of [
      "UTC",
      "Europe/Lisbon",
      "America/Halifax",
      "Asia/Kathmandu",
      "Australia/Lord_Howe",
    ]) {
      for (let at = Date.UTC(2026, 9, 20); at < Date.UTC(2026, 10, 10); at += 5 * 36e5) {
        const wall = toWall(new Date(at).toISOString(), zone);
        expect(toWall(fromWall(wall, zone).toISOString(), zone), `${wall} ${zone}`).toBe(wall); // an hour that comes twice may be either
      }
    }
  });
});
