import { describe, expect, it } from "vitest";
import { type Line, rowsOf, ticks } from "./chart";

const at = (minute: number) => `2026-11-23T09:${String(minute).padStart(2, "0")}:00Z`;
const line = (name: string, ...points: [number, number][]): Line => ({
  name,
  style: "planned",
  points: points.map(([minute, out]) => ({ at: at(minute), out })),
});

describe("the rows of a chart", () => {
  it("have every instant once, in order, with what each line says at it", () => {
    const rows = rowsOf([line("planned", [0, 0], [10, 50]), line("accepted", [0, 0], [5, 20])], at(7));
    expect(rows).toEqual([
      { at: Date.parse(at(0)), planned: 0, accepted: 0 },
      { at: Date.parse(at(5)), accepted: 20 },
      { at: Date.parse(at(7)) },
      { at: Date.parse(at(10)), planned: 50 },
    ]);
  });

  it("keep the later of two points at one instant", () => {
    expect(rowsOf([line("accepted", [3, 10], [3, 20])])).toEqual([{ at: Date.parse(at(3)), accepted: 20 }]);
  });
});

describe("the steps of a scale", () => {
  it("are few and round, and the top itself", () => {
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
});
