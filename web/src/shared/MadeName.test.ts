import { expect, test } from "vitest";
import { inWords } from "./MadeName";

test("a pattern without work to make a name for is shown in words, its fields told apart", () => {
  expect(inWords("{family:lower}_{course}_Lab3.{ext}")).toEqual([
    { text: "family name", field: "family" },
    { text: "_", field: "" },
    { text: "course", field: "course" },
    { text: "_Lab3.", field: "" },
    { text: "extension", field: "ext" },
  ]);
  expect(inWords("")).toEqual([]);
  expect(inWords("notes {unclosed")).toEqual([{ text: "notes {unclosed", field: "" }]);
  expect(inWords("{shoe}")).toEqual([{ text: "{shoe}", field: "shoe" }]);
});
