import { scaleTime } from "d3-scale";
import {
  type MouseEvent,
  type PointerEvent,
  useCallback,
  useEffect,
  useLayoutEffect,
  useMemo,
  useRef,
  useState,
} from "react";
import { useKeys } from "../shared/keys";

export const day = 864e5;
export const spans = { "48 hours": 2, "two weeks": 14, term: 60 } as const;
export type Span = keyof typeof spans;
const order = Object.keys(spans) as Span[];

/** Where now stands in a fresh view. */
const lead = 0.11;
const threshold = 4; // pixels from which on a press is a drag

/**
 * The stretch of time that the chart shows, moved by dragging, scrolling, pinching and keys. While it
 * moves only the content's transform changes; what is drawn anew is drawn when it rests.
 */
export function useView(now: number, width: number, names: number) {
  const [span, setSpan] = useState<Span>("two weeks");
  const [moved, setMoved] = useState(0); // ms from the fresh view
  const content = useRef<SVGSVGElement>(null);
  const field = useRef<HTMLDivElement>(null);
  const offset = useRef(0); // pixels, not yet drawn
  const length = spans[span] * day;
  const pixels = Math.max(1, width - names - 8);
  const perPixel = length / pixels;
  const start = now - length * lead + moved;
  const x = useMemo(
    () =>
      scaleTime()
        .domain([new Date(start), new Date(start + length)])
        .range([names, names + pixels]),
    [start, length, names, pixels],
  );

  const slide = useCallback((by: number) => {
    offset.current = by;
    if (content.current) content.current.style.transform = by ? `translateX(${by}px)` : "";
  }, []);
  const rest = useCallback(() => {
    const by = offset.current;
    if (by) setMoved((m) => m - by * perPixel);
  }, [perPixel]);
  useLayoutEffect(() => slide(0), [start, slide]);

  const zoom = useCallback(
    (by: number) =>
      setSpan((s) => order[Math.min(order.length - 1, Math.max(0, order.indexOf(s) + by))]!),
    [],
  );

  // A wheel moves sideways; with Ctrl, as a pinch on a touchpad comes, it zooms.
  const timer = useRef<ReturnType<typeof setTimeout>>(undefined);
  const pinch = useRef(0);
  useEffect(() => {
    const window = field.current;
    const wheel = (e: WheelEvent) => {
      const sideways = e.shiftKey ? e.deltaY || e.deltaX : e.deltaX;
      if (e.ctrlKey) {
        pinch.current += e.deltaY;
        if (Math.abs(pinch.current) > 60) {
          zoom(Math.sign(pinch.current));
          pinch.current = 0;
        }
      } else if (Math.abs(sideways) > (e.shiftKey ? 0 : Math.abs(e.deltaY))) {
        slide(Math.max(-pixels, Math.min(pixels, offset.current - sideways)));
        clearTimeout(timer.current);
        timer.current = setTimeout(rest, 140);
      } else return;
      e.preventDefault();
    };
    window?.addEventListener("wheel", wheel, { passive: false });
    return () => window?.removeEventListener("wheel", wheel);
  }, [slide, rest, zoom, pixels]);

  const fingers = useRef(new Map<number, number>());
  const grabbed = useRef<{ at: number; apart: number; dragged: boolean }>(undefined);
  const apart = () => {
    const [a, b] = [...fingers.current.values()];
    return a !== undefined && b !== undefined ? Math.abs(a - b) : 0;
  };
  const handlers = {
    onPointerDown: (e: PointerEvent) => {
      fingers.current.set(e.pointerId, e.clientX);
      grabbed.current = { at: e.clientX, apart: apart(), dragged: false };
    },
    onPointerMove: (e: PointerEvent<HTMLDivElement>) => {
      const g = grabbed.current;
      if (!g || !fingers.current.has(e.pointerId)) return;
      fingers.current.set(e.pointerId, e.clientX);
      if (g.apart > 0) {
        const ratio = apart() / g.apart;
        if (ratio > 1.5 || ratio < 0.67) {
          zoom(ratio > 1 ? -1 : 1);
          g.apart = apart();
          g.dragged = true;
        }
        return;
      }
      if (!g.dragged && Math.abs(e.clientX - g.at) > threshold) {
        g.dragged = true;
        e.currentTarget.setPointerCapture(e.pointerId);
      }
      if (g.dragged) slide(Math.max(-pixels, Math.min(pixels, e.clientX - g.at)));
    },
    onPointerUp: (e: PointerEvent) => {
      fingers.current.delete(e.pointerId);
      rest();
      if (grabbed.current && !grabbed.current.dragged) grabbed.current = undefined;
    },
    onPointerCancel: (e: PointerEvent) => {
      fingers.current.delete(e.pointerId);
      grabbed.current = undefined;
      rest();
    },
    // The click that ends a drag opens nothing.
    onClickCapture: (e: MouseEvent) => {
      if (grabbed.current?.dragged) {
        e.stopPropagation();
        e.preventDefault();
      }
      grabbed.current = undefined;
    },
  };

  const step = useCallback((by: number) => setMoved((m) => m + by * length), [length]);
  const home = useCallback(() => setMoved(0), []);
  useKeys({
    "[": () => step(-0.25),
    "]": () => step(0.25),
    "0": home,
    ...Object.fromEntries(order.map((s, n) => [String(n + 1), () => setSpan(s)])),
  });
  const choose = (s: Span) => {
    setSpan(s);
    setMoved(0);
  };
  return {
    x,
    span,
    choose,
    moved: Math.abs(moved) > length * 0.01,
    home,
    step,
    content,
    field,
    handlers,
    perPixel,
    pixels,
  };
}
