import { expect, test } from "vitest";
import { Keys } from "./once";

function keys() {
  let n = 0;
  return new Keys(() => `key-${++n}`);
}

test("a double click goes under one key, and the next time under another", () => {
  const all = keys();
  const first = all.keyFor("POST", "/api/campaigns", '{"name":"a"}');
  expect(all.keyFor("POST", "/api/campaigns", '{"name":"a"}')).toBe(first);
  expect(all.keyFor("POST", "/api/campaigns", '{"name":"b"}')).not.toBe(first);
  all.answered(first ?? "");
  expect(all.keyFor("POST", "/api/campaigns", '{"name":"a"}')).not.toBe(first);
});

test("after a lost answer the same goes under the same key, until something else was done there", () => {
  const all = keys();
  const put = all.keyFor("PUT", "/api/campaigns/1", "on") ?? "";
  all.lost(put);
  expect(all.keyFor("PUT", "/api/campaigns/1", "on")).toBe(put);
  const off = all.keyFor("PUT", "/api/campaigns/1", "off") ?? "";
  all.answered(off);
  expect(all.keyFor("PUT", "/api/campaigns/1", "on")).not.toBe(put);
});

test("what only asks has no key", () => {
  for (const path of ["/api/criteria", "/api/clearance/people", "/api/lens", "/api/campaigns/1/preview"]) {
    expect(keys().keyFor("POST", path, "")).toBeUndefined();
  }
  expect(keys().keyFor("GET", "/api/campaigns", "")).toBeUndefined();
});
