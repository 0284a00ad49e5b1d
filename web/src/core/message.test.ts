import { describe, expect, it } from "vitest";
import {
  type Content,
  EMPTY,
  inlayFor,
  longest,
  moveBlock,
  newBlock,
  partOf,
  readContent,
  toType,
  withPart,
} from "./message";
import { wordsOf } from "./passages";

const content: Content = {
  version: 2,
  language: "",
  subject: "S",
  preheader: "P",
  blocks: [
    { id: "h", kind: "heading", text: wordsOf("H"), level: 1 },
    { id: "b", kind: "button", label: "L", url: "https://a.example" },
    { id: "d", kind: "divider" },
  ],
  needed: [],
};

describe("the message document", () => {
  it("names its parts as the server does", () => {
    expect(partOf(content, "subject")).toBe("S");
    expect(partOf(content, "blocks.0.text")).toBe("H");
    expect(partOf(content, "blocks.1.url")).toBe("https://a.example");
    expect(partOf(content, "blocks.9.text")).toBe("");
  });

  it("is changed in one part and nowhere else, by a new document", () => {
    const next = withPart(content, "blocks.1.label", "New");
    expect(partOf(next, "blocks.1.label")).toBe("New");
    expect(partOf(content, "blocks.1.label")).toBe("L");
    expect(next.blocks[0]).toBe(content.blocks[0]);
    expect(withPart(content, "preheader", "x").preheader).toBe("x");
    expect(withPart(content, "blocks.0.text", "Ho").blocks[0]).toMatchObject({ text: wordsOf("Ho") });
  });

  it("bounds each part", () => {
    const text = {
      ...content,
      blocks: [{ id: "p", kind: "paragraph" as const, text: [], align: "start" as const }, ...content.blocks],
    };
    const bounds = ["subject", "blocks.0.text", "blocks.1.text", "blocks.2.label", "blocks.2.url"];
    expect(bounds.map((part) => longest(text, part))).toEqual([2_000, 50_000, 2_000, 500, 2_000]);
  });

  it("moves a block only where there is room for it", () => {
    expect(moveBlock(content, 0, 1).blocks.map((block) => block.kind)).toEqual([
      "button",
      "heading",
      "divider",
    ]);
    expect(moveBlock(content, 0, -1)).toBe(content);
    expect(moveBlock(content, 2, 1)).toBe(content);
  });

  it("begins with one empty paragraph, and new blocks are empty", () => {
    expect(EMPTY.blocks).toEqual([newBlock("paragraph", "b1")]);
    expect(newBlock("button", "x")).toEqual({ id: "x", kind: "button", label: "", url: "https://" });
    expect(newBlock("divider", "x")).toEqual({ id: "x", kind: "divider" });
  });

  it("that was stored before its blocks had ids is given some, the same each time", () => {
    const stored = {
      ...content,
      blocks: [{ id: "b2", kind: "divider" }, { kind: "divider" }, { id: "b2", kind: "divider" }],
    };
    const ids = readContent(stored).blocks.map((block) => block.id);
    expect(ids).toEqual(["b2", "b2-2", "b3"]);
    const first = readContent({ version: 1, blocks: [{ id: "a", kind: "heading", text: "H" }] });
    expect(first.blocks).toEqual([{ id: "a", kind: "heading", text: wordsOf("H"), level: 1 }]);
    expect(first.version).toBe(2);
    expect(readContent({ subject: "old" })).toMatchObject({ subject: "old", language: "", needed: [] });
  });
});

describe("an inlay from the picker", () => {
  it("asks for a fallback where somebody has none, and for words where the field is yes or no", () => {
    expect(inlayFor("town", "text", 0)).toBe("@{town}");
    expect(inlayFor("first_name", "text", 40)).toBe('@{first_name else "…"}');
    expect(inlayFor("volunteer", "yes_no", 0)).toBe("@{if volunteer}…@{else}…@{end}");
  });

  it("is typed over where its words are missing, and else stands before the caret", () => {
    const inlay = inlayFor("first_name", "text", 40);
    const text = `Dear ${inlay}`;
    expect(text.slice(...toType(inlay, 5))).toBe("…");
    expect(toType("@{town}", 5)).toEqual([12, 12]);
  });
});
