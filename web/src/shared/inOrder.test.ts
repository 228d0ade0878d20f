import { expect, it } from "vitest";
import { inOrder } from "./inOrder";

/** Something that becomes ready after a while and is done when its turn has come. */
async function ready(
  turn: ReturnType<ReturnType<typeof inOrder>>,
  after: number,
  done: () => void,
) {
  await new Promise((r) => setTimeout(r, after));
  await turn.come;
  done();
  turn.leave();
}

it("keeps the order in which places were taken, whatever is ready first", async () => {
  const place = inOrder();
  const done: number[] = [];
  await Promise.all([30, 5, 20, 1].map((after, n) => ready(place(), after, () => done.push(n))));
  expect(done).toEqual([0, 1, 2, 3]);
});

it("lets the next on when somebody leaves without being done", async () => {
  const place = inOrder();
  const done: string[] = [];
  const broken = place();
  const next = ready(place(), 1, () => done.push("next"));
  await new Promise((r) => setTimeout(r, 10));
  expect(done).toEqual([]);
  broken.leave();
  await next;
  expect(done).toEqual(["next"]);
});

it("lets nobody past who is only slow", async () => {
  const place = inOrder();
  const slow = place();
  let came = false;
  void place().come.then(() => (came = true));
  await new Promise((r) => setTimeout(r, 10));
  expect(came).toBe(false);
  slow.leave();
  slow.leave(); // twice
  await new Promise((r) => setTimeout(r, 1));
  expect(came).toBe(true);
});

it("begins anew when the line is empty", async () => {
  const place = inOrder();
  place().leave();
  await place().come;
});
