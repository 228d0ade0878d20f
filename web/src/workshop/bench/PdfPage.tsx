import type { PDFPageProxy } from "pdfjs-dist";
import { type ReactNode, useEffect, useRef, useState } from "react";
import styles from "./Look.module.css";

type Props = {
  page: PDFPageProxy;
  width: number;
  turn?: number;
  label: string;
  children?: ReactNode;
};

/** One page, drawn when it comes into view. What lies over it is its children. */
export function PdfPage({ page, width, turn = 0, label, children }: Props) {
  const canvas = useRef<HTMLCanvasElement>(null);
  const box = useRef<HTMLDivElement>(null);
  const [seen, setSeen] = useState(false);
  const rotation = (page.rotate + turn + 360) % 360;
  const shape = page.getViewport({ scale: 1, rotation });
  useEffect(() => {
    const watch = new IntersectionObserver(
      (list) => list.some((e) => e.isIntersecting) && setSeen(true),
      { rootMargin: "400px" },
    );
    watch.observe(box.current!);
    return () => watch.disconnect();
  }, []);
  useEffect(() => {
    if (!seen) return;
    const to = canvas.current!;
    const viewport = page.getViewport({
      scale: (width / shape.width) * Math.min(2, window.devicePixelRatio || 1),
      rotation,
    });
    to.width = viewport.width;
    to.height = viewport.height;
    const drawing = page.render({ canvas: to, viewport });
    drawing.promise.catch(() => {}); // another drawing has taken its place
    return () => drawing.cancel();
  }, [seen, page, width, rotation, shape.width]);
  return (
    <div
      ref={box}
      className={styles.page}
      style={{ width, aspectRatio: `${shape.width} / ${shape.height}` }}
    >
      <canvas ref={canvas} role="img" aria-label={label} />
      {children}
    </div>
  );
}
