import { type DragEvent, useState } from "react";

/** Files dropped on an element: whether something hangs over it, and what it has to listen to. */
export function useDrop(take: (files: FileList) => void) {
  const [over, setOver] = useState(false);
  const drag = {
    onDragOver: (e: DragEvent) => {
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      e.preventDefault();
      setOver(false);
      take(e.dataTransfer.files);
    },
  };
  return { over, drag };
}
