import { describe, expect, it } from "vitest";
import { changeWords, evidenceWords } from "./consent";

describe("consent in words", () => {
  it("names what stands behind an entry, and nothing else", () => {
    expect(evidenceWords({ ground: "Signed", file: "a.csv", row: 3, import: 9 })).toBe(
      " · Signed · a.csv · row 3",
    );
    expect(evidenceWords({ wording: "" })).toBe("");
  });

  it("tells a change from what to what", () => {
    expect(changeWords("Town", "Skarn", "Marlby")).toBe("Town: Skarn → Marlby");
    expect(changeWords("Town", "", "Marlby")).toBe("Town: Marlby");
    expect(changeWords("Town", "Skarn", "")).toBe("Town: Skarn → blank");
  });
});
