// @vitest-environment jsdom
import { act, cleanup, renderHook, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, test } from "vitest";
import { server } from "../testing/render";
import { useWriting } from "./writing";

/** What the server keeps, by a revision as its own does; away: it cannot be reached. */
let kept: { body: string; revision: number };
let away: boolean;
let puts: string[];

beforeEach(() => {
  kept = { body: "", revision: 0 };
  away = false;
  puts = [];
  server(({ method, body }) => {
    if (away) throw new TypeError("no line");
    if (method === "GET") return { status: 200, body: { ...kept, at: "2026-11-26T20:00:00Z" } };
    const sent = body as typeof kept;
    if (sent.revision !== kept.revision)
      return { status: 409, body: { message: "This was written on in another tab." } };
    puts.push(sent.body);
    kept = { body: sent.body, revision: sent.revision + 1 };
    return { status: 200, body: { revision: kept.revision } };
  });
});
afterEach(cleanup);

async function opened() {
  const { result } = renderHook(() => useWriting(1, 2, 0));
  await waitFor(() => expect(result.current.body).toBeDefined());
  return result;
}

test("it is kept at a pause, once, with what was written last", async () => {
  const writing = await opened();
  act(() => writing.current.change("The"));
  act(() => writing.current.change("The tide"));
  expect(writing.current.stands).toBe("changed");
  await waitFor(() => expect(writing.current.stands).toBe("kept"), { timeout: 3000 });
  expect(puts).toEqual(["The tide"]);
});

test("what another tab has written is not overwritten, and can be read", async () => {
  const writing = await opened();
  kept = { body: "the other's", revision: 1 };
  act(() => writing.current.change("mine"));
  await waitFor(() => expect(writing.current.trouble).toContain("another tab"), { timeout: 3000 });
  expect(writing.current.elsewhere).toBe(true);
  expect(writing.current.body).toBe("mine"); // still to be copied
  await new Promise((r) => setTimeout(r, 1200));
  expect(puts).toEqual([]);
  await act(() => writing.current.reread());
  expect(writing.current.body).toBe("the other's");
  act(() => writing.current.change("the other's, and mine"));
  await waitFor(() => expect(puts).toEqual(["the other's, and mine"]), { timeout: 3000 });
});

test("while the line is down nothing is lost, and it is tried again", async () => {
  const writing = await opened();
  away = true;
  act(() => writing.current.change("on the train"));
  await waitFor(() => expect(writing.current.trouble).not.toBe(""), { timeout: 3000 });
  away = false;
  await waitFor(() => expect(kept.body).toBe("on the train"), { timeout: 6000 });
  await waitFor(() => expect(writing.current.trouble).toBe(""));
}, 12_000);

test("what is written on after a pause goes over the revision that was kept", async () => {
  const writing = await opened();
  for (const text of ["one", "one two", "one two three"]) {
    act(() => writing.current.change(text));
    await waitFor(() => expect(kept.body).toBe(text), { timeout: 3000 });
    await waitFor(() => expect(writing.current.stands).toBe("kept"));
  }
  expect(puts).toEqual(["one", "one two", "one two three"]);
  expect(kept.revision).toBe(3);
  expect(writing.current.trouble).toBe("");
}, 12_000);
