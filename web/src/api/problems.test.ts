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
  expect(problemOf(500, body).message).toContain("Look again before you repeat it");
});

it("has words for anything that is thrown", () => {
  expect(wordsOf(new Error("e"))).toBe("e");
  expect(wordsOf("plain")).toBe("plain");
});

it("knows which value it is about, and how a thing stands that somebody else changed", () => {
  const problem = problemOf(409, { code: "changed", detail: "Ada was quicker.", theirs: { revision: 4 } });
  expect(problem.theirs).toEqual({ revision: 4 });
  expect(problemOf(422, { code: "pace", detail: "At least 1.", field: "batch_size" }).field).toBe(
    "batch_size",
  );
});
