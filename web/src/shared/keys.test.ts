// @vitest-environment jsdom
import { describe, expect, it } from "vitest";
import { keyOf, typing } from "./keys";

const press = (key: string, held: string[] = [], prevented = false) => ({
  key,
  ctrlKey: held.includes("Control"),
  metaKey: held.includes("Meta"),
  altKey: held.includes("Alt"),
  defaultPrevented: prevented,
  getModifierState: (m: string) => held.includes(m),
});

describe("keys go by the character that they type", () => {
  it.each([
    ["/ on its own key", press("/"), "/"],
    ["/ with Shift, as on a German keyboard", press("/", ["Shift"]), "/"],
    ["? without Shift", press("?"), "?"],
    ["? with Shift", press("?", ["Shift"]), "?"],
    ["[ with AltGr, told as Ctrl and Alt", press("[", ["Control", "Alt", "AltGraph"]), "["],
    ["a capital with caps lock", press("H"), "h"],
    ["an arrow", press("ArrowLeft"), "ArrowLeft"],
    ["with Ctrl", press("a", ["Control"]), null],
    ["with Alt", press("a", ["Alt"]), null],
    ["with the system's key", press("k", ["Meta"]), null],
    ["already used", press("/", [], true), null],
  ])("%s", (_, event, want) => expect(keyOf(event)).toBe(want));
});

describe("single keys belong to what is typed", () => {
  it.each([
    ["<input>", true],
    ["<input type=search>", true],
    ["<input type=number>", true],
    ["<textarea></textarea>", true],
    ["<select></select>", true],
    ["<input type=checkbox>", false],
    ["<input type=radio>", false],
    ["<button>48 hours</button>", false],
    ["<a href=x>a</a>", false],
  ])("%s", (html, want) => {
    document.body.innerHTML = html;
    expect(typing(document.body.firstElementChild)).toBe(want);
  });
  it("nothing at all", () => expect(typing(null)).toBe(false));
});
