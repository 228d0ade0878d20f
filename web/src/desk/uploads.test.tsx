// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Asked, Around, likeABrowser, server } from "../testing/render";
import { useUploads } from "./uploads";

/** Uploads whose fate the test decides. */
const lines = vi.hoisted(() => ({ all: [] as FakeUpload[] }));
type Options = {
  metadata: { filename: string };
  onProgress: (sent: number, total: number) => void;
  onError: (e: Error) => void;
  onSuccess: () => Promise<void>;
};
class FakeUpload {
  url: string | null = null;
  starts = 0;
  aborted = false;
  resumed?: unknown;
  constructor(
    readonly file: File,
    readonly options: Options,
  ) {
    lines.all.push(this);
  }
  findPreviousUploads = () => Promise.resolve(this.file.name === "again.pdf" ? [{ at: 100 }] : []);
  resumeFromPreviousUpload = (before: unknown) => (this.resumed = before);
  start = () => this.starts++;
  abort = () => {
    this.aborted = true;
    return Promise.resolve();
  };
  arrive() {
    this.url = `/api/uploads/${this.file.name}-id`;
    return this.options.onSuccess();
  }
  breaks = () => act(() => this.options.onError(new Error("no answer, caused by x")));
}
vi.mock("tus-js-client", async (original) => ({
  ...(await original<typeof import("tus-js-client")>()),
  Upload: class {
    constructor(file: File, options: Options) {
      return new FakeUpload(file, options);
    }
  },
}));

let asked: Asked[];
let no: string | undefined; // the upload that the server refuses
beforeEach(() => {
  likeABrowser();
  lines.all = [];
  no = undefined;
  asked = server((a) =>
    a.method === "POST" && (a.body as { upload: string }).upload === no
      ? { status: 422, body: { message: "Nothing more can be sent here." } }
      : { status: 200, body: { id: 1 } },
  );
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

const files = (...names: string[]) => names.map((n) => new File(["x"], n));
const added = () => asked.map((a) => (a.body as { upload: string }).upload);
async function begin(...names: string[]) {
  const hook = renderHook(() => useUploads(7, 3), { wrapper: Around });
  await act(async () => hook.result.current.start(files(...names), "work"));
  return hook;
}

describe("files chosen together", () => {
  it("go into the bundle in the order in which they were chosen", async () => {
    const { result } = await begin("a.pdf", "b.pdf", "c.pdf");
    expect(lines.all.map((u) => u.starts)).toEqual([1, 1, 1]); // all at once
    const [a, b, c] = lines.all;
    void c!.arrive();
    void b!.arrive();
    await waitFor(() => expect(result.current.sending[2]!.reading).toBe(true));
    expect(added()).toEqual([]);
    await a!.arrive();
    await waitFor(() => expect(added()).toEqual(["a.pdf-id", "b.pdf-id", "c.pdf-id"]));
    await waitFor(() => expect(result.current.sending).toEqual([]));
    expect(asked[0]!.body).toEqual({ upload: "a.pdf-id", slot: "work", part: 3 });
  });

  it("do not wait for one whose line broke; that one can go on later", async () => {
    const { result } = await begin("a.pdf", "b.pdf");
    const [a, b] = lines.all;
    await a!.breaks();
    await b!.arrive();
    await waitFor(() => expect(added()).toEqual(["b.pdf-id"]));
    expect(result.current.sending.map((s) => [s.name, s.trouble])).toEqual([
      ["a.pdf", "The file did not arrive: no answer. Try again."],
    ]);
    act(() => result.current.again(result.current.sending[0]!.id));
    expect([a!.starts, result.current.sending[0]!.trouble]).toEqual([2, undefined]);
    await a!.arrive();
    await waitFor(() => expect(added()).toEqual(["b.pdf-id", "a.pdf-id"]));
  });

  it("do not wait for one that is taken back", async () => {
    const { result } = await begin("a.pdf", "b.pdf");
    const [a, b] = lines.all;
    void b!.arrive();
    act(() => result.current.cancel(result.current.sending[0]!.id));
    await waitFor(() => expect(added()).toEqual(["b.pdf-id"]));
    expect(a!.aborted).toBe(true);
    await waitFor(() => expect(result.current.sending).toEqual([]));
  });

  it("say what the server says, and let the next on", async () => {
    no = "a.pdf-id";
    const { result } = await begin("a.pdf", "b.pdf");
    await lines.all[0]!.arrive();
    await lines.all[1]!.arrive();
    await waitFor(() => expect(added()).toEqual(["a.pdf-id", "b.pdf-id"]));
    await waitFor(() =>
      expect(result.current.sending.map((s) => s.trouble)).toEqual([
        "Nothing more can be sent here.",
      ]),
    );
  });
});

it("one that was taken back while it waited is not added", async () => {
  const { result } = await begin("a.pdf", "b.pdf");
  void lines.all[1]!.arrive();
  await waitFor(() => expect(result.current.sending[1]!.reading).toBe(true));
  act(() => result.current.cancel(result.current.sending[1]!.id));
  await lines.all[0]!.arrive();
  await waitFor(() => expect(result.current.sending).toEqual([]));
  expect(added()).toEqual(["a.pdf-id"]);
});

it("shows how much has arrived", async () => {
  const { result } = await begin("a.pdf");
  act(() => lines.all[0]!.options.onProgress(30, 100));
  expect(result.current.sending[0]).toMatchObject({ name: "a.pdf", sent: 30, total: 100 });
});

it("goes on where the same file broke off before", async () => {
  await begin("again.pdf");
  expect(lines.all[0]!.resumed).toEqual({ at: 100 });
});
