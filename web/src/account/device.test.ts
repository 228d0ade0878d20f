import { expect, it } from "vitest";
import { device } from "./device";

it.each([
  ["Mozilla/5.0 (X11; Linux x86_64; rv:140.0) Gecko/20100101 Firefox/140.0", "Firefox on Linux"],
  [
    "Mozilla/5.0 (Linux; Android 10; K) AppleWebKit/537.36 (KHTML, like Gecko) Chrome/140.0.0.0 Mobile Safari/537.36",
    "Chromium on Android",
  ],
  [
    "Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) AppleWebKit/605.1.15 (KHTML, like Gecko) Version/18.0 Mobile/15E148 Safari/604.1",
    "Safari on iOS",
  ],
  ["curl/8.0", "curl"],
  ["", "a browser without a name"],
])("calls %s %s", (agent, name) => {
  expect(device(agent)).toBe(name);
});
