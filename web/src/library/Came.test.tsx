// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { MemoryRouter, useLocation } from "react-router";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import { type Asked, likeABrowser, render, server } from "../testing/render";
import { Came } from "./Came";

const belongs = [1, 2, 3, 4].map((n) => ({
  assignment_id: n,
  part_id: 10 * n,
  text: `HYD 214: Work ${n}`,
}));

let asked: Asked[];
beforeEach(() => {
  likeABrowser();
  asked = server(({ method }) =>
    method === "GET"
      ? { status: 200, body: { version: { name: "tides.txt" }, belongs } }
      : { status: 204, body: undefined },
  );
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});

function Where() {
  const { pathname, search } = useLocation();
  return <output data-testid="where">{pathname + search}</output>;
}
const shown = (address: string) =>
  render(
    <MemoryRouter initialEntries={[address]}>
      <Came />
      <Where />
    </MemoryRouter>,
  );

it("proposes the three likeliest, and one press puts it into the bundle", async () => {
  shown("/library?came=7");
  fireEvent.click(await screen.findByRole("button", { name: "HYD 214: Work 1" }));
  expect(screen.queryByRole("button", { name: "HYD 214: Work 4" })).toBeNull();
  await waitFor(() => expect(screen.getByTestId("where").textContent).toBe("/desk/1?part=10"));
  expect(asked.find((a) => a.method === "POST")?.body).toEqual({ part: 10, slot: "", version: 7 });
});

it("is gone once every file was settled, and never there without one", async () => {
  shown("/library?came=7,8");
  for (const rest of ["/library?came=8", "/library"]) {
    fireEvent.click((await screen.findAllByRole("button", { name: "Only keep it" }))[0]!);
    await waitFor(() =>
      expect(decodeURIComponent(screen.getByTestId("where").textContent!)).toBe(rest),
    );
  }
  expect(screen.queryByText("Where does it belong?")).toBeNull();
  cleanup();
  shown("/library?came=,x");
  expect(screen.queryByText("Where does it belong?")).toBeNull();
});
