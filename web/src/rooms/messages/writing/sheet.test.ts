import { getSchema } from "@tiptap/core";
import fc from "fast-check";
import { describe, expect, it } from "vitest";
import type { Block } from "../../../core/content";
import { joined, type Passage } from "../../../core/passages";
import { blocksOf, KINDS, sheetOf } from "../../../core/writing";
import { sheetExtensions } from "./nodes";
import { partAt, placeOfPart, positionOf } from "./places";
import { wordsOfProblem } from "./problems";
import { withoutChips } from "./sync";

const schema = getSchema(sheetExtensions(() => undefined));

const text = fc
  .array(
    fc.constantFrom(
      "Dear ",
      "@{first_name}",
      '@{town else "a}"}',
      "@{if volunteer}",
      "@{end}",
      "@{",
      "@@{",
      "\n",
      "  ",
      "😀",
      "نور",
    ),
    { maxLength: 6 },
  )
  .map((parts) => parts.join(""));
const line = text.map((one) => one.replace(/\n/g, " "));
const words = fc
  .array(
    fc.record({
      text,
      bold: fc.boolean(),
      italic: fc.boolean(),
      colour: fc.constantFrom<Passage["colour"]>("", "accent", "quiet"),
      link: fc.constantFrom("", "https://a.example/@{town}"),
    }),
    { maxLength: 4 },
  )
  .map(joined);
const id = fc.string({ minLength: 1, maxLength: 6, unit: fc.constantFrom("a", "b", "1", "-") });
const over = {
  variable: fc.constantFrom("b", "w"),
  listed: fc.constantFrom("walk_bookings", ""),
  order: fc.constantFrom("", "date"),
};

const { block } = fc.letrec<{ block: Block }>((tie) => {
  const inner = fc.array(tie("block"), { maxLength: 2 });
  return {
    block: fc.oneof(
      { maxDepth: 3, withCrossShrink: true },
      fc.record({
        id,
        kind: fc.constant("paragraph" as const),
        text: words,
        align: fc.constantFrom("start" as const, "centre" as const),
      }),
      fc.record({
        id,
        kind: fc.constant("heading" as const),
        text: words,
        level: fc.constantFrom(1 as const, 2 as const, 3 as const),
      }),
      fc.record({
        id,
        kind: fc.constant("list" as const),
        items: fc.array(words, { minLength: 1, maxLength: 3 }),
        ordered: fc.boolean(),
      }),
      fc.record({ id, kind: fc.constant("button" as const), label: line, url: line }),
      fc.record({ id, kind: fc.constant("buttons" as const), ...over, label: line, url: line }),
      fc.record({ id, kind: fc.constant("divider" as const) }),
      fc.record({ id, kind: fc.constant("space" as const), height: fc.integer({ min: 4, max: 200 }) }),
      id.map((one) => ({ ...KINDS.picture.fresh(one), alt: "A lamp" })),
      id.map((one) => ({ ...KINDS.html.fresh(one), source: "<p>@{town}</p>" })),
      id.map((one) => ({ ...KINDS.shared.fresh(one), name: "Hours", blocks: [KINDS.divider.fresh("d")] })),
      id.map((one) => ({ ...KINDS.table.fresh(one), listed: "walk_bookings" })),
      id.map((one) => ({ id: one, kind: "of a later version", more: [1] }) as unknown as Block),
      fc.record({
        id,
        kind: fc.constant("columns" as const),
        columns: fc.array(inner, { minLength: 2, maxLength: 3 }),
      }),
      fc.record({
        id,
        kind: fc.constant("only" as const),
        arms: fc.array(fc.record({ criteria: line, blocks: inner }), { minLength: 1, maxLength: 2 }),
        otherwise: inner,
      }),
      fc.record({ id, kind: fc.constant("each" as const), ...over, blocks: inner, otherwise: inner }),
    ) as fc.Arbitrary<Block>,
  };
});
const blocks = fc.array(block, { minLength: 1, maxLength: 4 });

describe("the editor's sheet", () => {
  it("gives back every block as it was, also of kinds that it does not know", () => {
    fc.assert(
      fc.property(blocks, (before) => {
        const sheet = schema.nodeFromJSON(sheetOf(before));
        sheet.check();
        expect(blocksOf(sheet)).toEqual(before);
      }),
      { seed: 7, numRuns: 400 },
    );
  });

  it("loses nothing when inlays are shown as text and as chips again", () => {
    fc.assert(
      fc.property(blocks, (before) => {
        const asText = withoutChips(schema.nodeFromJSON(sheetOf(before)));
        asText.check();
        let chips = 0;
        asText.descendants((node) => {
          if (node.type.name === "inlay") chips += 1;
        });
        expect(chips).toBe(0);
        expect(blocksOf(asText)).toEqual(before);
        const chipsAgain = schema.nodeFromJSON(sheetOf(blocksOf(asText)));
        expect(chipsAgain.eq(schema.nodeFromJSON(sheetOf(before)))).toBe(true);
      }),
      { seed: 11, numRuns: 300 },
    );
  });

  it("has an empty message as a place to write in", () => {
    const sheet = schema.nodeFromJSON(sheetOf([]));
    sheet.check();
    expect(blocksOf(sheet)).toMatchObject([{ kind: "paragraph", text: [] }]);
  });
});

describe("a part that the server names", () => {
  const plain = { bold: false, italic: false, colour: "" as const, link: "" };
  const sheet = schema.nodeFromJSON(
    sheetOf([
      { ...KINDS.divider.fresh("d") },
      {
        ...KINDS.only.fresh("o"),
        arms: [{ criteria: "volunteer", blocks: [{ ...KINDS.heading.fresh("h"), text: [] }] }],
        otherwise: [
          KINDS.divider.fresh("x"),
          { ...KINDS.paragraph.fresh("p"), text: [{ ...plain, text: "Dear @{frist_name}, 😀 come" }] },
        ],
      },
    ]),
  );

  it.each([
    ["blocks.0", "divider", []],
    ["blocks.1.arms.0.criteria", "only", ["arms", "0", "criteria"]],
    ["blocks.1.arms.0.blocks.0.text", "heading", ["text"]],
    ["blocks.1.otherwise.1.text", "paragraph", ["text"]],
  ])("%s is found in the sheet", (part, name, rest) => {
    const place = placeOfPart(sheet, part);
    expect(place?.node.type.name).toBe(name);
    expect(place?.rest).toEqual(rest);
  });

  it("leads from any position in words back to that position", () => {
    fc.assert(
      fc.property(blocks, (written) => {
        const any = schema.nodeFromJSON(sheetOf(written));
        any.descendants((node, from) => {
          if (!node.inlineContent) return true;
          for (let pos = from + 1; pos <= from + 1 + node.content.size; pos += 1) {
            const caret = partAt(any.resolve(pos));
            const place = caret && placeOfPart(any, caret.part);
            const problem = { start: caret?.sign ?? -1, end: caret?.sign ?? -1 };
            expect(place && wordsOfProblem(place, { part: caret.part, problem })?.from).toBe(pos);
          }
          return false;
        });
      }),
      { seed: 5, numRuns: 200 },
    );
  });

  it("that is not there is nowhere", () => {
    expect(placeOfPart(sheet, "blocks.9.text")).toBeUndefined();
    expect(placeOfPart(sheet, "subject")).toBeUndefined();
  });

  it("has its signs where the text has them, a chip being one", () => {
    const place = placeOfPart(sheet, "blocks.1.otherwise.1.text");
    if (!place) throw new Error("not found");
    const at = (offset: number) => positionOf(place.node, place.from, offset) - place.from - 1;
    expect([0, 5, 10, 18, 20, 25].map(at)).toEqual([0, 5, 5, 6, 8, 13]);
  });
});
