import { describe, expect, it } from "vitest";
import { inputText, itemsOf, listText } from "./values";

const PARTS = [
  { key: "name", label: "Name", type: "text", currency: null, choices: [] },
  { key: "price", label: "Price", type: "money", currency: "EUR", choices: [] },
];

describe("values in inputs", () => {
  it("are the texts that the server reads", () => {
    expect(inputText(null, "text")).toBe("");
    expect(inputText(false, "yes_no")).toBe("no");
    expect(inputText({ amount: "12.50", currency: "EUR" }, "money")).toBe("12.50");
    expect(inputText("2026-05-31T14:30:00Z", "date_time")).toBe("2026-05-31 14:30Z");
    expect(inputText("2026-05-31", "date")).toBe("2026-05-31");
  });

  it("of a list are records of texts, and go back without their blanks", () => {
    const items = itemsOf([{ name: "A; B", price: { amount: "3", currency: "EUR" } }, { name: "C" }], PARTS);
    expect(items).toEqual([
      { name: "A; B", price: "3" },
      { name: "C", price: "" },
    ]);
    expect(listText([...items, { name: " ", price: "" }])).toBe('[{"name":"A; B","price":"3"},{"name":"C"}]');
    expect(listText([{ name: "" }])).toBe("");
    expect(itemsOf(undefined, PARTS)).toEqual([]);
  });
});
