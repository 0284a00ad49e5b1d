import { describe, expect, it } from "vitest";
import { numberFault, readAmount, readNumber } from "./numbers";
import { count } from "./words";

describe("a typed number", () => {
  it.each([
    ["1,000", "1000"],
    ["12,345,678.5", "12345678.5"],
    ["1 000", "1000"],
    ["-2", "-2"],
    ["−2", "-2"],
    [".5", "0.5"],
    [" 7 ", "7"],
  ])("is read as the application writes it: %s", (text, read) => {
    expect(readNumber(text)).toBe(read);
  });

  it.each(["1,5", "1,00", "10,0000", "1,000 000", "1.2.3", "a lot", "", "-", "1e3"])(
    "is never guessed: %s",
    (text) => {
      expect(readNumber(text)).toBeUndefined();
    },
  );

  it("comes back from what the application writes", () => {
    for (const value of [0, 7, 999, 1000, 123456, 1234567]) {
      expect(readNumber(count(value))).toBe(String(value));
    }
  });

  it("may stand beside its currency, and beside no other", () => {
    for (const text of ["€50", "50 €", "EUR 50", "50"]) expect(readAmount(text, "EUR")).toBe("50");
    expect(readAmount("$50", "EUR")).toBeUndefined();
  });

  it.each([
    ["99999", "At most 65,535"],
    ["0", "At least 1"],
    ["1.5", "Has to be a whole number"],
    ["x", "Has to be a number"],
    ["1,5", "Write 1.5 or 15: a comma stands before thousands"],
    ["587", undefined],
  ])("out of its bounds says so: %s", (text, fault) => {
    expect(numberFault(text, { min: 1, max: 65535, whole: true })).toBe(fault);
  });
});
