import { describe, expect, it } from "vitest";
import { linear, path, ticks } from "./chart";

describe("a scale", () => {
  it("maps the ends of its domain to the ends of its range", () => {
    const scale = linear([10, 20], [0, 100]);
    expect([scale(10), scale(15), scale(20)]).toEqual([0, 50, 100]);
    expect(linear([5, 5], [7, 100])(5)).toBe(7);
  });

  it("has few round ticks, and the top itself", () => {
    expect(ticks(423)).toEqual([0, 200, 423]);
    expect(ticks(1846)).toEqual([0, 500, 1000, 1500, 1846]);
    expect(ticks(3)).toEqual([0, 1, 2, 3]);
    expect(ticks(0)).toEqual([0]);
    for (const top of [1, 7, 19, 100, 999, 12_345, 1_000_000]) {
      const found = ticks(top);
      expect(found.length).toBeLessThanOrEqual(6);
      expect(found).toEqual([...new Set(found)].sort((a, b) => a - b));
    }
  });

  it("draws a path through its points", () => {
    expect(
      path([
        [0, 1],
        [2.25, 3],
      ]),
    ).toBe("M0.0 1.0L2.3 3.0");
    expect(path([])).toBe("");
  });
});
