import { scaleTime } from "d3-scale";
import { describe, expect, it } from "vitest";
import type { Line } from "../api/client";
import { happens, layLane, left } from "./layout";

const line = (over: Partial<Line>): Line => ({
  id: 1,
  source: "site",
  part_id: 1,
  part: "",
  parts: [],
  plan_minutes: 120,
  estimate: "",
  not_before: null,
  miss: "",
  extension: "",
  course_id: 1,
  course: "HYD 214",
  zone: "UTC",
  title: "Lab",
  state: "open",
  opens: "2026-11-02T00:00:00Z",
  due: "2026-11-12T00:00:00Z",
  due_was: null,
  closes: null,
  hard_stop: false,
  send_by: "2026-11-11T00:00:00Z",
  price: "",
  points: 20,
  weight: 10,
  effort_minutes: 120,
  done_minutes: 0,
  blocks: [],
  latest_start: null,
  slack_minutes: null,
  slack: "",
  sent_at: null,
  report_expected: null,
  outcome: "",
  attempt: 1,
  attempts: 1,
  must_fix: 0,
  crowd: 1,
  pressing: false,
  strip: [],
  strip_attempt: 1,
  ...over,
});
const x = scaleTime()
  .domain([new Date("2026-11-01T00:00:00Z"), new Date("2026-11-15T00:00:00Z")])
  .range([100, 1500]);
// Paths with whole pixels, as an eye would read them.
const whole = (path: string) => path.replace(/\d+\.\d+/g, (n) => String(Math.round(Number(n))));
const now = new Date("2026-11-05T00:00:00Z").getTime();

describe("a lane", () => {
  it("drops a line only where work is planned, and to the rail by its end", () => {
    const [drawn] = layLane(
      [
        line({
          blocks: [{ start: "2026-11-06T00:00:00Z", end: "2026-11-06T02:00:00Z", pinned: false }],
        }),
      ],
      x,
      now,
      200,
    );
    expect(whole(drawn!.drawn)).toBe("M200 156L500 156");
    expect(whole(drawn!.planned).startsWith("M500 156L600 156")).toBe(true);
    expect(whole(drawn!.planned).endsWith("L1100 200")).toBe(true);
  });
  it("keeps unplanned work up in the air", () => {
    const [drawn] = layLane([line({ done_minutes: 60 })], x, now, 200);
    expect(left(line({ done_minutes: 60 }))).toBe(0.5);
    expect(whole(drawn!.planned)).toBe("M500 178L1100 178");
  });
  it("ends sent work on the rail and draws no plan for it", () => {
    const [drawn] = layLane([line({ sent_at: "2026-11-04T00:00:00Z" })], x, now, 200);
    expect(whole(drawn!.drawn).endsWith("L400 200")).toBe(true);
    expect(whole(drawn!.planned)).toBe("");
  });
  it("puts labels that would overlap into rows of their own", () => {
    const [a, b] = layLane(
      [line({ id: 1 }), line({ id: 2, opens: "2026-11-02T01:00:00Z" })],
      x,
      now,
      200,
    );
    expect(b!.label!.y).toBeLessThan(a!.label!.y);
    const third = layLane([line({ id: 1 }), line({ id: 2 }), line({ id: 3 })], x, now, 200)[2];
    expect(third!.label).toBeUndefined(); // no third row: it is told on hover
  });
  it("lets no title be crossed by the line of now", () => {
    const [drawn] = layLane([line({ opens: "2026-11-04T22:00:00Z" })], x, now, 200);
    expect(drawn!.label!.x).toBeGreaterThan(x(now));
  });
  it("names parts beside their own marks and on no other", () => {
    const parts = ["2026-11-10T00:00:00Z", "2026-11-10T06:00:00Z"].map((due, id) => ({
      id,
      name: `part ${id}`,
      opens: null,
      due,
      closes: null,
      sent: false,
    }));
    const [drawn] = layLane([line({ parts })], x, now, 200);
    const bars = parts.map((p) => x(new Date(p.due)));
    expect(drawn!.words.map((w) => w.text)).toEqual(["part 0", "part 1"]);
    for (const w of drawn!.words)
      for (const bar of bars) expect(bar < w.x || bar > w.x + 20).toBe(true);
  });
  it("knows whether anything happens in a stretch", () => {
    const from = new Date("2026-11-07T00:00:00Z").getTime();
    expect(happens(line({}), from, from + 864e5)).toBe(false);
    expect(happens(line({ send_by: "2026-11-07T05:00:00Z" }), from, from + 864e5)).toBe(true);
    const blocks = [{ start: "2026-11-06T23:00:00Z", end: "2026-11-07T01:00:00Z", pinned: false }];
    expect(happens(line({ blocks }), from, from + 864e5)).toBe(true);
  });
});
