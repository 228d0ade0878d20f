import { type KeyboardEvent, type PointerEvent, useRef, useState } from "react";
import type { Schemas } from "../../api/client";
import styles from "./Corners.module.css";

export type Quad = [number, number][];
const names = ["Upper left", "Upper right", "Lower right", "Lower left"];

type Props = { photo: Schemas["Photograph"]; corners: Quad; draw: (corners: Quad) => void };

/** A photograph with the corners of its page, to be dragged or moved by the arrow keys; what is dragged is seen large. */
export function Corners({ photo, corners, draw }: Props) {
  const svg = useRef<SVGSVGElement>(null);
  const [held, setHeld] = useState<number>();
  const { width, height } = photo;
  const unit = Math.max(width, height) / 100;
  const image = `data:image/jpeg;base64,${photo.jpeg}`;
  const put = (n: number, x: number, y: number) => {
    const clamp = (v: number, most: number) => Math.max(0, Math.min(most, Math.round(v)));
    draw(corners.map((c, i) => (i === n ? [clamp(x, width), clamp(y, height)] : c)));
  };
  const move = (e: PointerEvent<SVGSVGElement>) => {
    if (held === undefined) return;
    const at = new DOMPoint(e.clientX, e.clientY).matrixTransform(
      svg.current!.getScreenCTM()!.inverse(),
    );
    put(held, at.x, at.y);
  };
  const key = (e: KeyboardEvent, n: number) => {
    const step = (e.shiftKey ? 10 : 2) * Math.max(1, width / 1000);
    const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[
      e.key
    ];
    if (!by) return;
    e.preventDefault();
    put(n, corners[n]![0] + by[0]! * step, corners[n]![1] + by[1]! * step);
  };
  const points = corners.map((c) => c.join(",")).join(" ");
  const close = held === undefined ? undefined : corners[held]!;
  return (
    <svg
      ref={svg}
      viewBox={`0 0 ${width} ${height}`}
      className={styles.photo}
      onPointerMove={move}
      onPointerUp={() => setHeld(undefined)}
      onPointerCancel={() => setHeld(undefined)}
    >
      <image href={image} width={width} height={height} />
      <path
        className={styles.off}
        d={`M0 0H${width}V${height}H0ZM${corners.map((c) => c.join(" ")).join("L")}Z`}
        fillRule="evenodd"
      />
      <polygon points={points} className={styles.edge} strokeWidth={unit * 0.35} />
      {corners.map((c, n) => (
        <g key={names[n]}>
          <circle
            cx={c[0]}
            cy={c[1]}
            r={unit * 1.6}
            className={styles.corner}
            strokeWidth={unit * 0.4}
          />
          <circle
            cx={c[0]}
            cy={c[1]}
            r={unit * 3.4}
            className={styles.grip}
            tabIndex={0}
            role="slider"
            aria-label={`${names[n]} corner`}
            aria-valuenow={Math.round(c[0])}
            aria-valuetext={`${Math.round(c[0])}, ${Math.round(c[1])}`}
            onPointerDown={(e) => {
              e.preventDefault();
              svg.current!.setPointerCapture(e.pointerId);
              setHeld(n);
            }}
            onKeyDown={(e) => key(e, n)}
          />
        </g>
      ))}
      {close && (
        <svg
          x={close[0] > width / 2 ? unit * 2 : width - unit * 27}
          y={close[1] > height / 2 ? unit * 2 : height - unit * 27}
          width={unit * 25}
          height={unit * 25}
          viewBox={`${close[0] - unit * 5} ${close[1] - unit * 5} ${unit * 10} ${unit * 10}`}
        >
          <rect
            x={close[0] - unit * 5}
            y={close[1] - unit * 5}
            width={unit * 10}
            height={unit * 10}
            fill="#000"
          />
          <image href={image} width={width} height={height} />
          <path
            d={`M${close[0] - unit * 5} ${close[1]}h${unit * 10}M${close[0]} ${close[1] - unit * 5}v${unit * 10}`}
            className={styles.edge}
            strokeWidth={unit * 0.1}
          />
        </svg>
      )}
    </svg>
  );
}
