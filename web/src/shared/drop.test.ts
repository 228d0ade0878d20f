import { expect, test } from "vitest";
import { dropped } from "./drop";

type Entry = { isFile: boolean; name: string };
const file = (name: string) => ({
  isFile: true,
  name,
  file: (done: (f: File) => void) => done(new File(["x"], name)),
});
/** A folder that gives its entries two at a time, as browsers give a hundred. */
const folder = (name: string, entries: Entry[]) => ({
  isFile: false,
  name,
  createReader: () => {
    const left = [...entries];
    return { readEntries: (done: (list: Entry[]) => void) => done(left.splice(0, 2)) };
  },
});
const transfer = (entries: Entry[], files: File[] = []) =>
  ({
    items: entries.map((e) => ({ webkitGetAsEntry: () => e })),
    files,
  }) as unknown as DataTransfer;

test("folders are dropped with all that is in them, but for hidden files", async () => {
  const found = await dropped(
    transfer([
      file("a.txt"),
      folder("lab", [file("b.csv"), file(".hidden"), folder("photos", [file("c.jpg")])]),
    ]),
  );
  expect(found.map((f) => f.name)).toEqual(["a.txt", "b.csv", "c.jpg"]);
});

test("files alone are taken as they are", async () => {
  const files = [new File(["x"], "a.txt")];
  expect(await dropped(transfer([file("a.txt")], files))).toEqual(files);
});
