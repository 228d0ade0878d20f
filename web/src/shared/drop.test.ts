// @vitest-environment jsdom
import { expect, test } from "vitest";
import { dropped, keepPage, mostDropped } from "./drop";

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

test("what cannot be read, and far too much, is told and adds nothing", async () => {
  const locked = {
    isFile: true,
    name: "locked.docx",
    file: (_: unknown, fail: () => void) => fail(),
  };
  await expect(dropped(transfer([folder("lab", [file("a.txt"), locked])]))).rejects.toThrow(
    "locked.docx could not be read",
  );
  const many = (n: number) => Array.from({ length: n }, (_, i) => file(`${i}.txt`));
  const half = mostDropped / 2;
  expect(await dropped(transfer([folder("disk", many(mostDropped))]))).toHaveLength(mostDropped);
  await expect(
    dropped(transfer([folder("disk", [folder("a", many(half)), folder("b", many(half + 1))])])),
  ).rejects.toThrow("more than 300 files");
  await expect(
    dropped(transfer([folder("a", many(half)), folder("b", many(half + 1))])),
  ).rejects.toThrow("more than 300 files");
  const alone = Array.from({ length: mostDropped + 1 }, (_, i) => new File(["x"], `${i}.txt`));
  await expect(dropped(transfer([file("0.txt")], alone))).rejects.toThrow("more than 300 files");
});

test("a file dropped beside all places does not leave the page", () => {
  keepPage();
  const drop = (types: string[]) => {
    const e = new Event("drop", { bubbles: true, cancelable: true });
    Object.assign(e, { dataTransfer: { types, dropEffect: "copy" } });
    document.body.dispatchEvent(e);
    return e.defaultPrevented;
  };
  expect(drop(["Files"])).toBe(true);
  expect(drop(["text/plain"])).toBe(false); // words may go into a field
});
