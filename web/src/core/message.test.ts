import { describe, expect, it } from "vitest";
import { EMPTY, isBlank, readContent } from "./message";
import { wordsOf } from "./passages";
import type { components } from "./schema";
import { fieldOptions, foundOptions, freshBlock, KINDS, labelsOf, sayBlock, variableFor } from "./writing";

describe("the message document", () => {
  it("says what stands between the tags of HTML", () => {
    const source = '<p>See <a href="https://a.example/?c=@{no else "<b>"}">this</a>, @{town}</p>';
    expect(sayBlock({ id: "h", kind: "html", source })).toBe('See @{no else "<b>"} this , @{town}');
  });

  it("begins with one empty paragraph", () => {
    expect(EMPTY.blocks).toEqual([KINDS.paragraph.fresh("b1")]);
    expect(isBlank(EMPTY)).toBe(true);
    expect(isBlank({ ...EMPTY, preheader: "P" })).toBe(false);
    expect(isBlank({ ...EMPTY, blocks: [KINDS.divider.fresh("d")] })).toBe(false);
  });

  it("that was stored before its blocks had ids is given some, the same each time", () => {
    const stored = {
      ...EMPTY,
      blocks: [{ id: "b2", kind: "divider" }, { kind: "divider" }, { id: "b2", kind: "divider" }],
    };
    const ids = readContent(stored).blocks.map((block) => block.id);
    expect(ids).toEqual(["b2", "b2-2", "b3"]);
    const first = readContent({ version: 1, blocks: [{ id: "a", kind: "heading", text: "H" }] });
    expect(first.blocks).toEqual([{ id: "a", kind: "heading", text: wordsOf("H"), level: 1 }]);
    expect(first.version).toBe(EMPTY.version);
    expect(readContent({ subject: "old" })).toMatchObject({ subject: "old", language: "", needed: [] });
  });

  it("has ids of their own for blocks in blocks, none longer than the server takes", () => {
    let block: object = { kind: "divider" };
    for (let deep = 0; deep < 15; deep += 1)
      block = { kind: "each", blocks: [block], otherwise: [{ kind: "divider" }] };
    const taken: string[] = [];
    const walk = (one: { id: string; blocks?: never[]; otherwise?: never[] }) => {
      taken.push(one.id);
      for (const inner of [...(one.blocks ?? []), ...(one.otherwise ?? [])]) walk(inner);
    };
    walk(readContent({ ...EMPTY, blocks: [block] }).blocks[0] as never);
    expect(new Set(taken).size).toBe(taken.length);
    expect(Math.max(...taken.map((id) => id.length))).toBeLessThanOrEqual(40);
  });
});

const field = (key: string, type: string, more: object = {}) =>
  ({
    key,
    label: key.replace("_", " "),
    type,
    help: "",
    currency: null,
    choices: [],
    parts: [],
    samples: [],
    blank: 0,
    estimated: false,
    standard: false,
    ...more,
  }) as components["schemas"]["FieldView"];
const FIELDS = [
  field("town", "text"),
  field("first_name", "text", { blank: 40 }),
  field("volunteer", "yes_no"),
  field("walk_bookings", "list", {
    parts: [field("walk", "text"), field("price", "money")],
  }),
];

describe("the field picker", () => {
  it("asks for a fallback where somebody has none, and for words where the field is yes or no", () => {
    const sources = fieldOptions(FIELDS, ["today"]).map((one) => one.source);
    expect(sources).toEqual([
      "@{town}",
      '@{first_name else "…"}',
      "@{if volunteer}…@{else}…@{end}",
      "@{walk_bookings}",
      "@{count(walk_bookings)}",
      "@{sum(walk_bookings.price)}",
      "@{today}",
    ]);
  });

  it("offers what is repeated first, where something is", () => {
    const [first] = fieldOptions(FIELDS, [], { variable: "b", listed: "walk_bookings" });
    expect(first?.source).toBe("@{b.walk}");
  });

  it("finds what begins with a search before what only has it", () => {
    const found = foundOptions(fieldOptions(FIELDS, []), " WAlk").map((one) => one.label);
    expect(found).toEqual(["walk bookings", "how many walk bookings", "sum of price in walk bookings"]);
    expect(foundOptions(fieldOptions(FIELDS, []), "nothing")).toEqual([]);
  });

  it("knows what parts of a record are called", () => {
    const labels = labelsOf(FIELDS);
    expect([labels("town"), labels("b.price"), labels("nothing")]).toEqual(["town", "price", undefined]);
  });
});

describe("a block over a list", () => {
  it("begins with the first list and a column for each of its parts", () => {
    expect(freshBlock("table", "t", FIELDS)).toMatchObject({
      variable: "w",
      listed: "walk_bookings",
      columns: [
        { title: "walk", value: "@{w.walk}", total: "", align: "start" },
        { title: "price", value: "@{w.price}", total: "@{sum(walk_bookings.price)}", align: "end" },
      ],
    });
    expect(freshBlock("table", "t", [])).toBeUndefined();
    expect(freshBlock("divider", "t", [])).toEqual({ id: "t", kind: "divider" });
  });

  it("calls one record by a name that no field has", () => {
    expect(variableFor("walk_bookings", FIELDS)).toBe("w");
    expect(variableFor("walk_bookings", [...FIELDS, field("w", "text")])).toBe("w1");
  });
});
