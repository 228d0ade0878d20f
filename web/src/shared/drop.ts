import { type DragEvent, useEffect, useState } from "react";
import { dated } from "./dated";
import { useSay } from "./Announcer";

/** A whole disk is dropped by mistake. */
export const mostDropped = 300;

/** The files that are dropped, and those in folders that are; all of them, or an error that says why none. */
export async function dropped(data: DataTransfer): Promise<File[]> {
  const entries = [...data.items].map((i) => i.webkitGetAsEntry?.()).filter((e) => !!e);
  const found: File[] = [];
  const take = (files: File[]) => {
    found.push(...files);
    if (found.length > mostDropped)
      throw new Error(
        `These are more than ${mostDropped} files. Nothing was added; drop what is asked for.`,
      );
  };
  if (entries.every((e) => e.isFile)) take([...data.files]);
  else for (const e of entries) await within(e, take);
  return found;
}

const unread = (entry: FileSystemEntry) =>
  new Error(`${entry.name} could not be read. Nothing was added; try again.`);

async function within(entry: FileSystemEntry, take: (files: File[]) => void): Promise<void> {
  if (entry.isFile)
    return take([
      await new Promise<File>((resolve, reject) =>
        (entry as FileSystemFileEntry).file(resolve, () => reject(unread(entry))),
      ),
    ]);
  const reader = (entry as FileSystemDirectoryEntry).createReader();
  for (;;) {
    // A reader gives a hundred at a time, and none at the end.
    const some = await new Promise<FileSystemEntry[]>((resolve, reject) =>
      reader.readEntries(resolve, () => reject(unread(entry))),
    );
    if (some.length === 0) return;
    for (const e of some) if (!e.name.startsWith(".")) await within(e, take);
  }
}

/** Files and folders dropped on an element: whether something hangs over it, and what it has to listen to. */
export function useDrop(take: (files: File[]) => void) {
  const [over, setOver] = useState(false);
  const say = useSay();
  const drag = {
    onDragOver: (e: DragEvent) => {
      if (!e.dataTransfer.types.includes("Files")) return; // something of the page's own is moved
      e.preventDefault();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: DragEvent) => {
      setOver(false);
      if (!e.dataTransfer.types.includes("Files")) return;
      e.preventDefault();
      void dropped(e.dataTransfer).then(take, (error: Error) => say(error.message, "trouble"));
    },
  };
  return { over, drag };
}

/** A file that is dropped beside the places that take it does not open in the page's stead. */
export function keepPage() {
  const stay = (e: globalThis.DragEvent) => {
    if (e.defaultPrevented || !e.dataTransfer?.types.includes("Files")) return;
    e.preventDefault();
    e.dataTransfer.dropEffect = "none";
  };
  document.addEventListener("dragover", stay);
  document.addEventListener("drop", stay);
}

/** Pictures, files and words that are pasted where nothing is being typed; words become a text file. */
export function usePaste(take: (files: File[]) => void) {
  useEffect(() => {
    const paste = (e: ClipboardEvent) => {
      const at = e.target;
      if (at instanceof HTMLInputElement || at instanceof HTMLTextAreaElement) return;
      const files = [...(e.clipboardData?.files ?? [])];
      const words = e.clipboardData?.getData("text/plain") ?? "";
      if (files.length > 0) take(files);
      else if (words.trim() !== "") take([new File([words], dated("pasted", "txt"))]);
    };
    document.addEventListener("paste", paste);
    return () => document.removeEventListener("paste", paste);
  }, [take]);
}
