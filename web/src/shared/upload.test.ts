import { DetailedError, type HttpResponse } from "tus-js-client";
import { describe, expect, it } from "vitest";
import { onShouldRetry, whyNot } from "./upload";

const refused = (status: number, body: string) =>
  Object.assign(new DetailedError("tus: unexpected response, caused by x"), {
    originalResponse: { getStatus: () => status, getBody: () => body } as HttpResponse,
  });

describe("an upload that ends", () => {
  it("is told in the server's words where there is no room", () => {
    const error = refused(507, "ERR_NO_ROOM: of your 5 GB only 3 MB are left.\n");
    expect(whyNot(error)).toBe("of your 5 GB only 3 MB are left.");
  });
  it("is told as a broken line otherwise", () => {
    for (const error of [new Error("no answer, caused by x"), refused(500, "")])
      expect(whyNot(error)).toMatch(/^The file did not arrive: .*\. Try again\.$/);
  });
  it.each([
    [0, true],
    [500, true],
    [409, true],
    [423, true],
    [400, false],
    [404, false],
    [413, false],
    [507, false],
  ])("with %i is tried again by itself: %s", (status, again) => {
    expect(onShouldRetry(refused(status, ""))).toBe(again);
  });
});
