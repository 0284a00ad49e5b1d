import { expect, it } from "vitest";
import { moved } from "./order";

it.each([
  ["b", -1, ["b", "a", "c"]],
  ["b", 1, ["a", "c", "b"]],
  ["a", -1, ["a", "b", "c"]],
  ["c", 1, ["a", "b", "c"]],
])("%s moved by %i", (thing, by, after) => {
  expect(moved(["a", "b", "c"], thing, by)).toEqual(after);
});
