import { expect, test } from "vitest";
import { dated } from "../shared/dated";
import { boxOf } from "./bench/Still";
import { queue, refusal } from "./recorder";

test("what is put into the queue comes out once, in order, and then the end", async () => {
  const q = queue();
  const first = q.read();
  q.put(new Uint8Array([1]));
  q.put(new Uint8Array([2]));
  expect((await first).value).toEqual(new Uint8Array([1]));
  expect((await q.read()).value).toEqual(new Uint8Array([2]));
  const last = q.read();
  q.end();
  expect(await last).toEqual({ done: true });
  expect(await q.read()).toEqual({ done: true });
});

test("names carry their date, so that no two are the same", () => {
  expect(dated("recording", "webm", new Date(2026, 10, 6, 9, 5, 7))).toBe(
    "recording_2026-11-06_090507.webm",
  );
});

test("a crop is drawn in any direction, and square where it is wished", () => {
  expect(boxOf([10, 10], [30, 50], false)).toEqual({ x: 10, y: 10, w: 20, h: 40 });
  expect(boxOf([30, 50], [10, 10], false)).toEqual({ x: 10, y: 10, w: 20, h: 40 });
  expect(boxOf([30, 50], [10, 10], true)).toEqual({ x: 10, y: 30, w: 20, h: 20 });
});

test("why a device could not be had says what to do", () => {
  const named = (name: string) => Object.assign(new Error("no"), { name });
  expect(refusal(named("NotAllowedError"))).toContain("Allow it");
  expect(refusal(named("NotFoundError"))).toContain("Plug it in");
  expect(refusal(named("AbortError"))).toContain("could not be opened");
});
