import { describe, expect, it } from "vitest";
import { count, duration, fieldValue, instantWords, people, percent, tooLong } from "./words";

describe("numbers for people", () => {
  it("have their thousands apart", () => {
    expect(count(3420)).toBe("3,420");
    expect(people(1)).toBe("1 person");
    expect(people(0)).toBe("0 people");
  });

  it("are 0 or 100 percent only when they are exactly that", () => {
    expect(percent(0, 50)).toBe("0 %");
    expect(percent(1, 1000)).toBe("under 1 %");
    expect(percent(999, 1000)).toBe("over 99 %");
    expect(percent(1000, 1000)).toBe("100 %");
    expect(percent(0, 0)).toBe("0 %");
  });

  it.each([
    [-5, "0 s"],
    [12, "12 s"],
    [60, "1 min"],
    [3599, "1 h"],
    [12_000, "3 h 20 min"],
    [86_400, "1 d"],
    [187_200, "2 d 4 h"],
  ])("%s seconds are %s", (seconds, words) => {
    expect(duration(seconds)).toBe(words);
  });
});

describe("instants", () => {
  const london = instantWords("Europe/London");
  const now = new Date("2026-07-01T12:00:00Z");

  it("are shown in the organisation's time zone, summer time counted in", () => {
    expect(london.time("2026-07-01T10:04:00Z")).toBe("11:04");
    expect(london.seconds("2026-12-01T10:04:09Z")).toBe("10:04:09");
    expect(instantWords("Asia/Tokyo").day("2026-06-30T20:00:00Z")).toBe("1 Jul 2026");
  });

  it("are as short as they can be without being mistaken", () => {
    expect(london.moment("2026-07-01T10:04:00Z", now)).toBe("11:04");
    expect(london.moment("2026-06-29T10:04:00Z", now)).toBe("Mon 11:04");
    expect(london.moment("2026-05-01T10:04:00Z", now)).toBe("1 May 2026, 11:04");
  });
});

describe("a stored value", () => {
  it.each([
    [null, "text", ""],
    ["Skarn", "text", "Skarn"],
    ["1234.5", "number", "1,234.5"],
    [{ amount: "750.50", currency: "EUR" }, "money", "€750.50"],
    ["2026-10-05", "date", "5 Oct 2026"],
    [true, "yes_no", "yes"],
    [false, "yes_no", "no"],
  ])("%j of type %s is shown as %s", (value, type, shown) => {
    expect(fieldValue(value, type)).toBe(shown);
  });
});

describe("a text that is too long", () => {
  it("says how long it may be and how long it is, counted in what one sees", () => {
    expect(tooLong("x".repeat(1_000), 1_000)).toBeUndefined();
    expect(tooLong("x".repeat(1_240), 1_000)).toBe("At most 1,000 characters; 1,240 now");
    expect(tooLong("💎".repeat(3), 3)).toBeUndefined();
  });
});
