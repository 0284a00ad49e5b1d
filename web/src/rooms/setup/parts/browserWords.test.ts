import { expect, test } from "vitest";
import { browserWords } from "./browserWords";

test.each([
  ["Mozilla/5.0 (X11; Linux x86_64) AppleWebKit/537.36 Chrome/130.0 Safari/537.36", "Chrome on Linux"],
  [
    "Mozilla/5.0 (Windows NT 10.0) AppleWebKit/537.36 Chrome/130.0 Safari/537.36 Edg/130.0",
    "Edge on Windows",
  ],
  ["Mozilla/5.0 (iPhone; CPU iPhone OS 18_0 like Mac OS X) Version/18.0 Safari/604.1", "Safari on iOS"],
  ["Mozilla/5.0 (Android 15; Mobile; rv:132.0) Gecko/132.0 Firefox/132.0", "Firefox on Android"],
  ["curl/8.5.0", "curl"],
  ["", "Another program"],
])("%s is called %s", (agent, words) => {
  expect(browserWords(agent)).toBe(words);
});
