import { describe, expect, it } from "vitest";
import { isTicked, NO_TICKS, tickAll, tickedCount, tickPage, tickRange, toggleTick } from "./ticks";

const ORDER = [5, 3, 9, 7, 1];
const sorted = (ids: ReadonlySet<number>) => [...ids].sort();

describe("ticks", () => {
  it("are set and taken off one by one", () => {
    const one = toggleTick(NO_TICKS, 3);
    expect(sorted(one.ids)).toEqual([3]);
    expect(toggleTick(one, 3).ids.size).toBe(0);
    expect(NO_TICKS.ids.size).toBe(0);
  });

  it("reach with Shift from the last tick to this row, in either direction", () => {
    const down = tickRange(toggleTick(NO_TICKS, 3), ORDER, 7);
    expect(sorted(down.ids)).toEqual([3, 7, 9]);
    const up = tickRange(toggleTick(NO_TICKS, 7), ORDER, 5);
    expect(sorted(up.ids)).toEqual([3, 5, 7, 9]);
    expect(sorted(tickRange(down, ORDER, 5).ids)).toEqual([3, 5, 7, 9]);
    expect(sorted(tickRange(NO_TICKS, ORDER, 9).ids)).toEqual([9]);
  });

  it("of a page are not those of all that match", () => {
    const page = tickPage(NO_TICKS, ORDER);
    expect(tickedCount(page, 2_380)).toBe(5);
    expect(isTicked(page, 77)).toBe(false);
    expect(tickPage(page, ORDER)).toBe(NO_TICKS);
    expect(tickPage(NO_TICKS, []).ids.size).toBe(0);
    const all = tickAll();
    expect(tickedCount(all, 2_380)).toBe(2_380);
    expect(isTicked(all, 77)).toBe(true);
    expect(toggleTick(all, 77).all).toBe(false);
  });
});
