import { describe, expect, it } from "vitest";
import { changeWords, evidenceWords, outlookWords } from "./consent";

describe("consent in words", () => {
  it("names what stands behind an entry, and nothing else", () => {
    expect(evidenceWords({ legal_basis: "Signed", file: "a.csv", row: 3, import: 9 })).toBe(
      " · Signed · a.csv · row 3",
    );
    // Entries from before have the same under another name.
    expect(evidenceWords({ wording: "" })).toBe("");
  });

  it("tells a change from what to what", () => {
    expect(changeWords("Town", "Skarn", "Marlby")).toBe("Town: Skarn → Marlby");
    expect(changeWords("Town", "", "Marlby")).toBe("Town: Marlby");
    expect(changeWords("Town", "Skarn", "")).toBe("Town: Skarn → blank");
  });
});

describe("what an import would do to consent", () => {
  it.each([
    [2, 0, 0, "2 people will be opted in."],
    [0, 1, 0, "Nobody new is opted in; 1 person already was."],
    [
      1,
      3,
      2,
      "1 person will be opted in; 3 people already were. 2 people had left: they stay out, only they can come back.",
    ],
  ])("is said as it is: %i, %i, %i", (subscribed, already, left, words) => {
    expect(outlookWords({ subscribed, already, left })).toBe(words);
  });
});
