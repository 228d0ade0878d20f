// @vitest-environment jsdom
import { cleanup, fireEvent, screen, waitFor } from "@testing-library/react";
import { afterEach, beforeEach, expect, it, vi } from "vitest";
import type { Desk } from "../api/client";
import { type Asked, likeABrowser, render, server } from "../testing/render";
import { SubmitPart } from "./SubmitPart";

const desk = (submit: Partial<Desk["submit"]> = {}) =>
  ({
    line: { id: 7, part_id: 3 },
    items: [{}],
    submit: {
      button: "Submit",
      sentence: "Orario sends 1 file to Alvarim.",
      why: "",
      ready: true,
      shut: false,
      declaration: "This is my own work.",
      mark: "m1",
      ...submit,
    },
  }) as unknown as Desk;

let asked: Asked[];
beforeEach(() => {
  likeABrowser();
  asked = server(() => ({ status: 200, body: { id: 1 } }));
});
afterEach(() => {
  cleanup();
  vi.unstubAllGlobals();
});
const button = () => screen.getByRole<HTMLButtonElement>("button", { name: "Submit" });

it("asks for the declaration first, and says so", async () => {
  render(<SubmitPart desk={desk()} />);
  expect(button().disabled).toBe(true);
  expect(screen.getByText("Confirm the declaration first.").id).toBe(
    button().getAttribute("aria-describedby"),
  );
  fireEvent.click(screen.getByRole("checkbox", { name: "This is my own work." }));
  expect(button().disabled).toBe(false);
  fireEvent.click(button());
  await waitFor(() => expect(asked).toHaveLength(1));
  expect(asked[0]).toEqual({
    method: "POST",
    path: "/api/assignments/7/submissions",
    body: { declared: true, comment: "", part: 3, seen: "m1" },
  });
});

it("says what must be fixed where nothing can be sent", () => {
  render(<SubmitPart desk={desk({ ready: false, why: "One thing must be fixed first." })} />);
  fireEvent.click(screen.getByRole("checkbox"));
  expect(button().disabled).toBe(true);
  screen.getByText("One thing must be fixed first.");
});

it("sends a comment, and keeps it when the server says no", async () => {
  let answer = { status: 422, body: { message: "This attempt is being sent already." } as unknown };
  asked = server(() => answer);
  render(<SubmitPart desk={desk({ declaration: "" })} />);
  fireEvent.click(screen.getByRole("button", { name: /comment/ }));
  const comment = () => screen.getByLabelText<HTMLTextAreaElement>("Comment to the instructor");
  fireEvent.change(comment(), { target: { value: "With thanks" } });
  fireEvent.click(button());
  await screen.findByText("This attempt is being sent already.");
  expect(comment().value).toBe("With thanks");
  answer = { status: 200, body: { id: 1 } };
  fireEvent.click(button());
  await waitFor(() => expect(screen.queryByLabelText("Comment to the instructor")).toBeNull());
  expect(asked.map((a) => (a.body as { comment: string }).comment)).toEqual([
    "With thanks",
    "With thanks",
  ]);
});

it("offers no button where there is nothing to send any more", () => {
  render(<SubmitPart desk={desk({ shut: true, sentence: "It is closed." })} />);
  screen.getByText("It is closed.");
  expect(screen.queryByRole("button")).toBeNull();
  expect(screen.queryByRole("checkbox")).toBeNull();
});
