import { type PointerEvent, useRef } from "react";
import type { Line } from "../api/client";
import { useTrial } from "../shared/trial";
import styles from "./Lane.module.css";
import type { Time } from "./layout";

const quarter = 9e5; // slabs snap to quarter hours

type Props = {
  line: Line;
  block: Line["blocks"][number];
  x: Time;
  rail: number;
  perPixel: number;
  move: (line: Line, slab: Line["blocks"][number], to: number) => void;
};

/** A stretch of planned work under the rail. Dragged elsewhere it shows what would follow. */
export function Slab({ line, block, x, rail, perPixel, move }: Props) {
  const trial = useTrial();
  const from = useRef<number>(undefined);
  const start = new Date(block.start).getTime();
  const at = x(start);
  const grab = (e: PointerEvent<SVGGElement>) => {
    e.stopPropagation(); // it is the slab that moves, not time
    from.current = e.clientX;
    e.currentTarget.setPointerCapture(e.pointerId);
  };
  const pull = (e: PointerEvent<SVGGElement>) => {
    if (from.current !== undefined)
      e.currentTarget.style.transform = `translateX(${e.clientX - from.current}px)`;
  };
  const put = (e: PointerEvent<SVGGElement>) => {
    if (from.current === undefined) return;
    const by = (e.clientX - from.current) * perPixel;
    from.current = undefined;
    e.currentTarget.style.transform = "";
    if (Math.abs(by) >= quarter / 2)
      move(line, block, Math.round((start + by) / quarter) * quarter);
  };
  return (
    <g
      className={styles.slab}
      data-pinned={block.pinned}
      data-slab={line.id}
      data-tried={trial.tried !== undefined}
      onPointerDown={grab}
      onPointerMove={pull}
      onPointerUp={put}
      onPointerCancel={(e) => {
        from.current = undefined;
        e.currentTarget.style.transform = "";
      }}
    >
      <rect
        x={at - 3}
        y={rail - 1}
        width={Math.max(2, x(new Date(block.end)) - at) + 6}
        height={14}
        className={styles.grip}
      />
      <rect x={at} y={rail + 1.5} width={Math.max(2, x(new Date(block.end)) - at)} height={6} />
      {block.pinned && <path d={`M${at - 3.5} ${rail + 12}h7l-3.5 -5z`} />}
    </g>
  );
}
