import { expect, it } from "vitest";
import { forms } from "./forms";

it.each([
  ["pdf, docx", ["pdf", "docx"]],
  ["PDF or Word", ["pdf", "word"]],
  [".odt; .rtf/txt and html", ["odt", "rtf", "txt", "html"]],
  ["  ", []],
])("%s", (text, want) => expect(forms(text)).toEqual(want));
