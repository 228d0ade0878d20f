import { memo, type PointerEvent, type ReactNode, useRef, useState } from "react";
import {
  type Field,
  mark,
  outline,
  type PageInk,
  path,
  type Point,
  type Stroke,
  touches,
  type Words,
} from "./ink";
import styles from "./InkPage.module.css";

export type Hand = {
  tool: "pen" | "marker" | "eraser" | "words" | "tick" | "cross" | "ring";
  colour: string;
  width: number;
};
type Props = {
  width: number; // of the page, in points
  height: number;
  shown: number; // of the page, in pixels
  hand: Hand;
  ink: PageInk;
  change: (ink: PageInk) => void;
  fields: Field[];
  values: Record<string, string>;
  fill: (name: string, value: string) => void;
  children: ReactNode;
};

/** A page that is written on: strokes, marks, typed words, and the fields of its form. */
export function InkPage(props: Props) {
  const { width, height, shown, hand, ink, change } = props;
  const svg = useRef<SVGSVGElement>(null);
  const [live, setLive] = useState<Stroke>();
  const points = useRef<Point[]>([]);
  const [pen, setPen] = useState(false); // once there is one, fingers only move the page
  const fingers = useRef(new Map<number, [number, number]>());
  const holds = useRef(-1); // the pointer that draws
  const stop = () => {
    points.current = [];
    holds.current = -1;
    setLive(undefined);
  };
  const scale = shown / width;
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const box = svg.current!.getBoundingClientRect();
    return [
      ((e.clientX - box.left) / box.width) * width,
      ((e.clientY - box.top) / box.height) * height,
    ];
  };
  const erase = (x: number, y: number) => {
    const strokes = ink.strokes.filter((s) => !touches(s, x, y, 5 / scale));
    if (strokes.length < ink.strokes.length) change({ ...ink, strokes });
  };
  const down = (e: PointerEvent<SVGSVGElement>) => {
    if (e.button !== 0) return;
    if (e.pointerType === "pen") setPen(true);
    if (e.pointerType === "touch") {
      fingers.current.set(e.pointerId, [e.clientX, e.clientY]);
      if (fingers.current.size > 1) stop(); // two move the page
      if (pen || fingers.current.size > 1) return;
    }
    const [x, y] = place(e);
    if (hand.tool === "words") {
      e.preventDefault();
      const words = { x, y: y - 7, size: 12, colour: hand.colour, text: "" };
      change({ ...ink, words: [...ink.words.filter((w) => w.text.trim()), words] });
      return;
    }
    if (hand.tool === "tick" || hand.tool === "cross" || hand.tool === "ring") {
      change({
        ...ink,
        strokes: [...ink.strokes, ...mark(hand.tool, x, y, hand.colour, hand.width)],
      });
      return;
    }
    svg.current!.setPointerCapture(e.pointerId);
    holds.current = e.pointerId;
    if (hand.tool === "eraser") {
      points.current = [[x, y, 0]];
      erase(x, y);
      return;
    }
    points.current = [[x, y, e.pressure || 0.5]];
    setLive(strokeOf(hand, points.current, e.pointerType === "pen"));
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    const was = fingers.current.get(e.pointerId);
    if (was && fingers.current.size > 1) {
      const share = fingers.current.size;
      scrolled(svg.current!)?.scrollBy((was[0] - e.clientX) / share, (was[1] - e.clientY) / share);
      fingers.current.set(e.pointerId, [e.clientX, e.clientY]);
      return;
    }
    if (points.current.length === 0 || e.pointerId !== holds.current) return;
    if (hand.tool === "eraser") {
      erase(...place(e));
      return;
    }
    const passed = e.nativeEvent.getCoalescedEvents?.() ?? [];
    for (const p of passed.length > 0 ? passed : [e.nativeEvent])
      points.current.push([...place(p), p.pressure || 0.5]);
    setLive(strokeOf(hand, points.current, e.pointerType === "pen"));
  };
  const up = (e: PointerEvent) => {
    fingers.current.delete(e.pointerId);
    if (e.pointerId !== holds.current) return; // the hand that rests beside the pen
    if (live) change({ ...ink, strokes: [...ink.strokes, live] });
    stop();
  };
  const setWords = (n: number, w: Words) =>
    change({ ...ink, words: ink.words.map((old, i) => (i === n ? w : old)) });
  return (
    <div className={styles.page} style={{ width: shown, height: height * scale }}>
      {props.children}
      <svg
        ref={svg}
        viewBox={`0 0 ${width} ${height}`}
        className={styles.ink}
        data-tool={hand.tool}
        data-pen={pen}
        onPointerDown={down}
        onPointerMove={move}
        onPointerUp={up}
        onPointerCancel={(e) => {
          fingers.current.delete(e.pointerId);
          if (e.pointerId === holds.current) stop();
        }}
      >
        {ink.strokes.map((s, n) => (
          <Line key={n} stroke={s} />
        ))}
        {live && <Line stroke={live} />}
      </svg>
      {props.fields.map((f) => (
        <FormField
          key={f.name + f.box.join()}
          field={f}
          scale={scale}
          value={props.values[f.name] ?? f.value}
          fill={props.fill}
        />
      ))}
      {ink.words.map((w, n) => (
        <textarea
          key={n}
          className={styles.words}
          aria-label="Typed words"
          style={{
            left: w.x * scale,
            top: w.y * scale,
            fontSize: w.size * scale,
            color: w.colour,
            width: `${Math.max(4, ...w.text.split("\n").map((l) => l.length + 2))}ch`,
          }}
          rows={w.text.split("\n").length}
          value={w.text}
          autoFocus={w.text === ""}
          onChange={(e) => setWords(n, { ...w, text: e.target.value })}
        />
      ))}
    </div>
  );
}

/** What scrolls an element: the nearest that holds more than it shows. */
function scrolled(e: Element): Element | null {
  for (let at = e.parentElement; at; at = at.parentElement)
    if (at.scrollHeight > at.clientHeight && getComputedStyle(at).overflowY !== "visible")
      return at;
  return document.scrollingElement;
}

/** A stroke; those that are done are not computed again while the next one is drawn. */
const Line = memo(function Line({ stroke: s }: { stroke: Stroke }) {
  return (
    <path d={path(outline(s))} fill={s.colour} className={s.clear ? styles.clear : undefined} />
  );
});

function strokeOf(hand: Hand, points: Point[], pen: boolean): Stroke {
  const marker = hand.tool === "marker";
  const rounded = points.map(([x, y, p]): Point => [
    Math.round(x * 10) / 10,
    Math.round(y * 10) / 10,
    Math.round(p * 100) / 100,
  ]);
  return {
    colour: hand.colour,
    width: marker ? hand.width * 6 : hand.width,
    clear: marker,
    pen,
    points: rounded,
  };
}

type FieldProps = {
  field: Field;
  scale: number;
  value: string;
  fill: (name: string, value: string) => void;
};

function FormField({ field: f, scale, value, fill }: FieldProps) {
  const [x, y, w, h] = f.box.map((v) => v * scale) as [number, number, number, number];
  const style = {
    left: x,
    top: y,
    width: w,
    height: h,
    fontSize: Math.max(9, Math.min(14 * scale, h * 0.68)),
  };
  const common = { className: styles.field, style, "aria-label": f.name };
  if (f.kind === "check")
    return (
      <input
        type="checkbox"
        {...common}
        checked={value !== ""}
        onChange={(e) => fill(f.name, e.target.checked ? "yes" : "")}
      />
    );
  if (f.kind === "choice" && f.options.length > 0)
    return (
      <select {...common} value={value} onChange={(e) => fill(f.name, e.target.value)}>
        <option value="" />
        {f.options.map((o) => (
          <option key={o}>{o}</option>
        ))}
      </select>
    );
  return f.many ? (
    <textarea {...common} value={value} onChange={(e) => fill(f.name, e.target.value)} />
  ) : (
    <input type="text" {...common} value={value} onChange={(e) => fill(f.name, e.target.value)} />
  );
}
