// @vitest-environment jsdom
import { cleanup, fireEvent, render } from "@testing-library/react";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import type { PageInk } from "./ink";
import { InkPage } from "./InkPage";

const nothing: PageInk = { strokes: [], words: [] };
let ink: PageInk;
let svg: SVGSVGElement;

// The tests' browser has no pointers of its own.
class Pointer extends MouseEvent {
  readonly pointerId: number;
  readonly pointerType: string;
  readonly pressure = 0.5;
  constructor(type: string, init: PointerEventInit) {
    super(type, init);
    this.pointerId = init.pointerId ?? 0;
    this.pointerType = init.pointerType ?? "";
  }
}

beforeEach(() => {
  vi.stubGlobal("PointerEvent", Pointer);
  ink = nothing;
  const page = render(
    <InkPage
      width={100}
      height={100}
      shown={100}
      hand={{ tool: "pen", colour: "#000000", width: 1 }}
      ink={nothing}
      change={(i) => (ink = i)}
      fields={[]}
      values={{}}
      fill={() => undefined}
    >
      <span />
    </InkPage>,
  );
  svg = page.container.querySelector("svg")!;
  svg.setPointerCapture = () => undefined;
});
afterEach(cleanup);

const at = (pointerId: number, pointerType: string, x: number) => ({
  pointerId,
  pointerType,
  button: 0,
  clientX: x,
  clientY: x,
});

test("one finger draws, a second one ends that and moves the page", () => {
  fireEvent.pointerDown(svg, at(2, "touch", 10));
  fireEvent.pointerMove(svg, at(2, "touch", 20));
  fireEvent.pointerUp(svg, at(2, "touch", 20));
  expect(ink.strokes).toHaveLength(1);
  ink = nothing;
  fireEvent.pointerDown(svg, at(3, "touch", 10));
  fireEvent.pointerMove(svg, at(3, "touch", 20));
  fireEvent.pointerDown(svg, at(4, "touch", 40));
  fireEvent.pointerMove(svg, at(3, "touch", 60));
  fireEvent.pointerUp(svg, at(4, "touch", 40));
  fireEvent.pointerUp(svg, at(3, "touch", 60));
  expect(ink.strokes).toHaveLength(0);
});

test("the hand that rests beside the pen neither draws nor ends its stroke", () => {
  fireEvent.pointerDown(svg, at(5, "pen", 10));
  fireEvent.pointerDown(svg, at(6, "touch", 80));
  fireEvent.pointerMove(svg, at(5, "pen", 20));
  fireEvent.pointerCancel(svg, at(6, "touch", 80));
  fireEvent.pointerMove(svg, at(5, "pen", 30));
  fireEvent.pointerUp(svg, at(5, "pen", 30));
  expect(ink.strokes).toHaveLength(1);
  expect(ink.strokes[0]!.points.length).toBeGreaterThan(2);
  expect(ink.strokes[0]!.pen).toBe(true);
});
