import { describe, expect, it } from "vitest";
import { type Content, EMPTY, inlayFor, moveBlock, newBlock, partOf, withPart } from "./message";

const content: Content = {
  version: 1,
  subject: "S",
  preheader: "P",
  blocks: [
    { kind: "heading", text: "H" },
    { kind: "button", label: "L", url: "https://a.example" },
    { kind: "divider" },
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
    expect(EMPTY.blocks).toEqual([newBlock("paragraph")]);
    expect(newBlock("button")).toEqual({ kind: "button", label: "", url: "https://" });
    expect(newBlock("divider")).toEqual({ kind: "divider" });
  });
});

describe("an inlay from the picker", () => {
  it("asks for a fallback where somebody has none, and for words where the field is yes or no", () => {
    expect(inlayFor("town", "text", 0)).toBe("@{town}");
    expect(inlayFor("first_name", "text", 40)).toBe('@{first_name else "…"}');
    expect(inlayFor("volunteer", "yes_no", 0)).toBe("@{if volunteer}…@{else}…@{end}");
  });
});
