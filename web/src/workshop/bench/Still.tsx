import { type PointerEvent, useEffect, useRef, useState } from "react";
import styles from "./Still.module.css";

type Box = { x: number; y: number; w: number; h: number };

/** A still, and what was done to it, a picture for each step. */
export class Shot {
  readonly picture: HTMLCanvasElement;
  private readonly earlier?: Shot;
  constructor(picture: HTMLCanvasElement, earlier?: Shot) {
    this.picture = picture;
    this.earlier = earlier;
  }
  get changed() {
    return this.earlier !== undefined;
  }
  before = () => this.earlier ?? this;
  blob(form: string, done: (blob: Blob) => void) {
    this.picture.toBlob((b) => b && done(b), form, 0.92);
  }
  crop = (b: Box) => {
    const c = canvas(Math.max(1, Math.round(b.w)), Math.max(1, Math.round(b.h)));
    c.getContext("2d")!.drawImage(this.picture, -Math.round(b.x), -Math.round(b.y));
    return new Shot(c, this);
  };
  mark = (kind: "arrow" | "frame", b: Box, from: [number, number], to: [number, number]) => {
    const c = canvas(this.picture.width, this.picture.height);
    const on = c.getContext("2d")!;
    on.drawImage(this.picture, 0, 0);
    on.strokeStyle = "#c4432a";
    on.lineWidth = Math.max(3, c.width / 320);
    on.lineCap = on.lineJoin = "round";
    on.beginPath();
    if (kind === "frame") on.rect(b.x, b.y, b.w, b.h);
    else {
      const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
      const angle = Math.atan2(dy, dx);
      const head = Math.min(Math.hypot(dx, dy) / 2, on.lineWidth * 6);
      on.moveTo(...from);
      on.lineTo(...to);
      for (const side of [-0.5, 0.5]) {
        on.moveTo(...to);
        on.lineTo(to[0] - head * Math.cos(angle + side), to[1] - head * Math.sin(angle + side));
      }
    }
    on.stroke();
    return new Shot(c, this);
  };
}

function canvas(width: number, height: number) {
  const c = document.createElement("canvas");
  c.width = width;
  c.height = height;
  return c;
}

/** What a stream shows now, all of it or the square in its middle. */
export async function still(
  stream: MediaStream,
  square: boolean,
  mirrored: boolean,
): Promise<Shot> {
  const video = document.createElement("video");
  video.muted = true;
  video.srcObject = stream;
  await video.play();
  const { videoWidth: w, videoHeight: h } = video;
  const side = Math.min(w, h);
  const c = square ? canvas(side, side) : canvas(w, h);
  const on = c.getContext("2d")!;
  if (mirrored) {
    on.translate(c.width, 0);
    on.scale(-1, 1);
  }
  on.drawImage(video, (c.width - w) / 2, (c.height - h) / 2);
  video.srcObject = null;
  return new Shot(c);
}

type Props = {
  shot: Shot;
  pen: "crop" | "arrow" | "frame";
  square: boolean;
  change: (shot: Shot) => void;
};

/** A still that is cropped and marked by drawing over it. */
export function Still({ shot, pen, square, change }: Props) {
  const holder = useRef<HTMLDivElement>(null);
  const [drawn, setDrawn] = useState<{ from: [number, number]; to: [number, number] }>();
  const { width, height } = shot.picture;
  useEffect(() => {
    holder.current!.prepend(shot.picture);
    const picture = shot.picture;
    return () => picture.remove();
  }, [shot]);
  const at = (e: PointerEvent): [number, number] => {
    const box = holder.current!.getBoundingClientRect();
    const clamp = (v: number, most: number) => Math.max(0, Math.min(most, v));
    return [
      clamp(((e.clientX - box.left) / box.width) * width, width),
      clamp(((e.clientY - box.top) / box.height) * height, height),
    ];
  };
  const box = drawn && boxOf(drawn.from, drawn.to, pen === "crop" && square);
  const end = () => {
    setDrawn(undefined);
    if (!drawn || !box || Math.hypot(box.w, box.h) < 8) return;
    change(pen === "crop" ? shot.crop(box) : shot.mark(pen, box, drawn.from, drawn.to));
  };
  return (
    <div
      ref={holder}
      className={styles.still}
      style={{
        aspectRatio: `${width} / ${height}`,
        maxWidth: `min(100%, ${(70 * width) / height}vh)`,
      }}
      data-testid="still"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        setDrawn({ from: at(e), to: at(e) });
      }}
      onPointerMove={(e) => drawn && setDrawn({ ...drawn, to: at(e) })}
      onPointerUp={end}
      onPointerCancel={() => setDrawn(undefined)}
    >
      {drawn && box && (
        <svg viewBox={`0 0 ${width} ${height}`}>
          {pen === "arrow" ? (
            <line
              x1={drawn.from[0]}
              y1={drawn.from[1]}
              x2={drawn.to[0]}
              y2={drawn.to[1]}
              strokeWidth={width / 300}
            />
          ) : (
            <rect x={box.x} y={box.y} width={box.w} height={box.h} strokeWidth={width / 300} />
          )}
        </svg>
      )}
    </div>
  );
}

export function boxOf(a: [number, number], b: [number, number], square: boolean): Box {
  let [w, h] = [Math.abs(b[0] - a[0]), Math.abs(b[1] - a[1])];
  if (square) w = h = Math.min(w, h);
  return { x: b[0] < a[0] ? a[0] - w : a[0], y: b[1] < a[1] ? a[1] - h : a[1], w, h };
}
