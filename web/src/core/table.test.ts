import { describe, expect, it } from "vitest";
import {
  columnKinds,
  firstColumns,
  foundBeside,
  knownColumns,
  moveColumn,
  newColumn,
  nextSort,
  resizeColumn,
  toggleColumn,
} from "./table";

const FIELDS = [
  { key: "address", label: "E-mail address", type: "text", standard: true },
  { key: "first_name", label: "First name", type: "text", standard: true },
  { key: "membership", label: "Membership", type: "choice", standard: false },
  { key: "town", label: "Town", type: "text", standard: false },
  { key: "school", label: "School", type: "text", standard: false },
];
const keys = (columns: { key: string }[]) => columns.map((one) => one.key);

describe("the table's columns", () => {
  it("begin with what says most in a line", () => {
    expect(keys(firstColumns(FIELDS))).toEqual(["name", "address", "membership", "town", "topics", "tags"]);
    expect(keys(firstColumns([]))).toEqual(["name", "address", "topics", "tags"]);
  });

  it("offer every field but the parts of the name", () => {
    expect(keys(columnKinds(FIELDS))).toEqual([
      "name",
      "address",
      "membership",
      "town",
      "school",
      "topics",
      "tags",
      "added",
    ]);
  });

  it("are shown, hidden, moved and sized, and the last one stays", () => {
    const two = [newColumn("name"), newColumn("town")];
    expect(keys(toggleColumn(two, "school"))).toEqual(["name", "town", "school"]);
    expect(keys(toggleColumn(two, "name"))).toEqual(["town"]);
    expect(keys(toggleColumn([newColumn("name")], "name"))).toEqual(["name"]);
    expect(keys(moveColumn(two, "town", -1))).toEqual(["town", "name"]);
    expect(moveColumn(two, "town", 5)).toBe(two);
    expect(moveColumn(two, "nothing", 1)).toBe(two);
    expect(resizeColumn(two, "town", 5_000)[1]?.width).toBe(800);
    expect(resizeColumn(two, "town", 1)[1]?.width).toBe(60);
    expect(two[1]?.width).toBe(120);
  });

  it("are sorted up, then down", () => {
    expect(nextSort("name", "town")).toBe("town");
    expect(nextSort("town", "town")).toBe("-town");
    expect(nextSort("-town", "town")).toBe("town");
  });

  it("of a removed field are passed over", () => {
    const kinds = columnKinds(FIELDS);
    expect(keys(knownColumns([newColumn("gone"), newColumn("town")], kinds))).toEqual(["town"]);
    expect(keys(knownColumns([newColumn("gone")], kinds))).toEqual(["name", "address"]);
  });
});

describe("what a search found somebody by", () => {
  const known = [
    { key: "name", label: "Name", text: "Zoë Cragg" },
    { key: "town", label: "Town", text: "Skarthwaite" },
    { key: "tags", label: "Tags", text: "caver, lamp owner" },
  ];
  const beside = (search: string, ...shown: string[]) => foundBeside(known, new Set(shown), search)?.key;

  it("is said where no column shows it, word by word, whatever its case and accents", () => {
    expect(beside("THWAITE", "name")).toBe("town");
    expect(beside("zoe thwaite", "name")).toBe("town");
    expect(beside("cragg lamp", "name", "town")).toBe("tags");
  });

  it("is not said where the columns tell, or nothing is known of it", () => {
    expect(beside("zoe", "name")).toBeUndefined();
    expect(beside("thwaite", "name", "town")).toBeUndefined();
    expect(beside("12.50", "name")).toBeUndefined();
    expect(beside("  ", "name")).toBeUndefined();
  });
});
