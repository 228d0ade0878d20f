import { describe, expect, it } from "vitest";
import type { Line } from "../api/client";
import { applies, readFilter, writeFilter } from "./filter";

const line = {
  id: 1,
  course_id: 7,
  course: "HYD 214",
  title: "Tide tables",
  state: "open",
  outcome: "",
  due: "2026-12-06T23:30:00Z",
} as Line;
const all = { state: "all", course: "", week: "", text: "" };

describe("a filter", () => {
  it("survives the address", () => {
    const f = { state: "to do", course: "7", week: "1", text: "tide & time" };
    expect(readFilter(new URLSearchParams(writeFilter(f)))).toEqual(f);
    expect(readFilter(new URLSearchParams("state=nonsense&week=9"))).toEqual(all);
    expect(readFilter(new URLSearchParams())).toEqual(all);
  });
  it("counts weeks from Monday, by the student's days", () => {
    const friday = "2026-12-04T12:00:00Z";
    expect(applies({ ...all, week: "0" }, line, friday, "UTC")).toBe(true); // Sunday evening
    expect(applies({ ...all, week: "1" }, line, friday, "Europe/Helsinki")).toBe(true); // Monday there
    expect(applies({ ...all, week: "0" }, line, friday, "Europe/Helsinki")).toBe(false);
  });
  it("looks into course, title and state", () => {
    expect(applies({ ...all, text: "TIDE" }, line, line.due, "UTC")).toBe(true);
    expect(applies({ ...all, text: "wood" }, line, line.due, "UTC")).toBe(false);
    expect(applies({ ...all, course: "8" }, line, line.due, "UTC")).toBe(false);
  });
});
