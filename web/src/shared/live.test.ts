// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, test, vi } from "vitest";
import { type Event, listen, waitAfter } from "./live";
import { changes, keys, keysOf } from "./queryKeys";

/** A line to the server that is spoken on by the test. */
class Line {
  static all: Line[] = [];
  onopen?: () => void;
  onmessage?: (m: { data: string; lastEventId: string }) => void;
  onerror?: () => void;
  closed = false;
  constructor(readonly url: string) {
    Line.all.push(this);
  }
  close() {
    this.closed = true;
  }
  says(id: string, text: string) {
    this.onmessage?.({
      data: JSON.stringify({ kind: "receipt", assignment: 5, text, pages: ["desk"] }),
      lastEventId: id,
    });
  }
  static get last() {
    return Line.all.at(-1)!;
  }
}

class Channel {
  static open: Channel[] = [];
  onmessage?: (m: { data: unknown }) => void;
  constructor() {
    Channel.open.push(this);
  }
  postMessage(data: unknown) {
    for (const c of Channel.open) if (c !== this) c.onmessage?.({ data });
  }
  close() {
    Channel.open = Channel.open.filter((c) => c !== this);
  }
}

/** Locks as a browser has them: one holder, the others wait. */
function locks() {
  let tail: Promise<unknown> = Promise.resolve();
  return {
    request(_: string, { signal }: { signal: AbortSignal }, hold: () => Promise<void>) {
      const mine = tail.then(() => (signal.aborted ? undefined : hold()));
      tail = mine;
      return mine;
    },
  };
}

beforeEach(() => {
  vi.useFakeTimers();
  Line.all = [];
  Channel.open = [];
  vi.stubGlobal("EventSource", Line);
  vi.stubGlobal("BroadcastChannel", Channel);
  Object.defineProperty(navigator, "locks", { value: locks(), configurable: true });
});
const closes: (() => void)[] = [];
afterEach(() => {
  for (const close of closes.splice(0)) close();
  vi.useRealTimers();
  vi.unstubAllGlobals();
});

const settle = () => vi.advanceTimersByTimeAsync(0);
function tab() {
  const heard: Event[] = [];
  let again = 0;
  const close = listen(
    (e) => heard.push(e),
    () => again++,
  );
  closes.push(close);
  return { heard, close, again: () => again };
}

describe("a line that breaks", () => {
  it("is tried again, later and later, for as long as the page is open", async () => {
    tab();
    await settle();
    for (let n = 0; n < 12; n++) {
      expect(Line.all).toHaveLength(n + 1);
      Line.last.onerror!();
      expect(Line.last.closed).toBe(true);
      await vi.advanceTimersByTimeAsync(waitAfter(n) - 1);
      expect(Line.all).toHaveLength(n + 1);
      await vi.advanceTimersByTimeAsync(1);
    }
    expect(waitAfter(40)).toBe(30_000);
  });

  it("goes on after the last event that was heard, and has the pages look again", async () => {
    const t = tab();
    await settle();
    expect(Line.last.url).toBe("/api/events");
    Line.last.onopen!();
    Line.last.says("41", "one");
    Line.last.says("42", "two");
    expect(t.again()).toBe(0);
    Line.last.onerror!();
    await vi.advanceTimersByTimeAsync(1000);
    expect(Line.last.url).toBe("/api/events?after=42");
    Line.last.onopen!();
    expect(t.again()).toBe(1);
    Line.last.says("43", "three");
    expect(t.heard.map((e) => [e.id, e.text])).toEqual([
      ["41", "one"],
      ["42", "two"],
      ["43", "three"],
    ]);
  });

  it("waits a second again once it held", async () => {
    tab();
    await settle();
    for (const wait of [1000, 2000, 4000]) {
      Line.last.onerror!();
      await vi.advanceTimersByTimeAsync(wait);
    }
    Line.last.onopen!();
    const before = Line.all.length;
    Line.last.onerror!();
    await vi.advanceTimersByTimeAsync(1000);
    expect(Line.all).toHaveLength(before + 1);
  });
});

describe("several tabs", () => {
  it("share one line, and all hear", async () => {
    const [a, b, c] = [tab(), tab(), tab()];
    await settle();
    expect(Line.all).toHaveLength(1);
    Line.last.onopen!();
    Line.last.says("7", "for all");
    for (const t of [a, b, c]) expect(t.heard.map((e) => e.text)).toEqual(["for all"]);
  });

  it("are told by another one when the first is closed", async () => {
    const [a, b] = [tab(), tab()];
    await settle();
    a.close();
    await settle();
    expect(Line.all).toHaveLength(2);
    expect(Line.all[0]!.closed).toBe(true);
    Line.last.says("8", "still");
    expect(a.heard).toEqual([]);
    expect(b.heard.map((e) => e.text)).toEqual(["still"]);
  });

  it("each have a line where there are no locks", async () => {
    Object.defineProperty(navigator, "locks", { value: undefined, configurable: true });
    tab();
    tab();
    await settle();
    expect(Line.all).toHaveLength(2);
  });
});

it("lets go of the line when the page is put away, and takes it again when it comes back", async () => {
  tab();
  await settle();
  window.dispatchEvent(new Event_("pagehide"));
  expect(Line.last.closed).toBe(true);
  const back = new Event_("pageshow");
  Object.defineProperty(back, "persisted", { value: true });
  window.dispatchEvent(back);
  await settle();
  expect(Line.all).toHaveLength(2);
  expect(Line.last.closed).toBe(false);
});
const Event_ = globalThis.Event;

describe("what an event makes stale", () => {
  it.each([
    [["horizon"], 5, [["horizon"]]],
    [
      ["desk"],
      5,
      [
        ["desk", 5],
        ["extension", 5],
      ],
    ],
    [["desk"], 0, [["desk"], ["extension"]]],
    [["library", "plan"], 0, [["library"], ["version"], ["plan"], ["week"], ["settings"]]],
    [["a page of a later version"], 5, []],
    [[], 5, []],
  ])("%s of %s", (pages, assignment, want) => expect(keysOf(pages, assignment)).toEqual(want));
});

test("what is computed of a file is not asked for again, whatever is done", () => {
  const still = [keys.photograph(3), keys.made("/a"), keys.words("x"), keys.entrance];
  expect(still.filter(changes)).toEqual([]);
  const changing = [keys.me, keys.desk(1, 2), keys.version(3), keys.typed(1), keys.workpiece(4)];
  expect(changing.filter(changes)).toEqual(changing);
});
