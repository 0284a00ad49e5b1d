import { expect, it } from "vitest";
import { problemOf, wordsOf } from "./problems";

it("takes code and words from problem details", () => {
  const problem = problemOf(409, { code: "drift", detail: "5 people are cleared now." });
  expect([problem.status, problem.code, problem.message]).toEqual([
    409,
    "drift",
    "5 people are cleared now.",
  ]);
});

it.each([[undefined], [null], ["<html>"], [{ error: "x" }]])("has words even for %j", (body) => {
  expect(problemOf(500, body).message).toContain("Nothing was changed");
});

it("has words for anything that is thrown", () => {
  expect(wordsOf(new Error("e"))).toBe("e");
  expect(wordsOf("plain")).toBe("plain");
});
