import { describe, expect, it } from "vitest";
import { blockOfPart, spokenBlocks } from "./comments";
import type { Block, Content } from "./content";
import { EMPTY } from "./message";
import { wordsOf } from "./passages";

const paragraph = (id: string, text: string): Block => ({
  id,
  kind: "paragraph",
  text: wordsOf(text),
  align: "start",
});
const CONTENT: Content = {
  ...EMPTY,
  blocks: [
    paragraph("a", "Dear  @{first_name else “friend”},"),
    {
      id: "b",
      kind: "only",
      arms: [{ criteria: "volunteer", blocks: [paragraph("c", "Thanks")] }],
      otherwise: [
        { id: "d", kind: "columns", columns: [[paragraph("e", "left")], [paragraph("f", "right")]] },
      ],
    },
    { id: "g", kind: "divider" },
    { id: "h", kind: "shared", message_id: 1, name: "Hours", blocks: [paragraph("i", "Open")] },
  ],
  others: [{ language: "de", subject: "", preheader: "", blocks: [paragraph("a", "Liebe")], basis: null }],
};

describe("what can be spoken of", () => {
  it("is every block that is written here, in the words of its language", () => {
    expect(spokenBlocks(CONTENT, "").map((one) => [one.id, one.part])).toEqual([
      ["a", "blocks.0"],
      ["b", "blocks.1"],
      ["c", "blocks.1.arms.0.blocks.0"],
      ["d", "blocks.1.otherwise.0"],
      ["e", "blocks.1.otherwise.0.columns.0.0"],
      ["f", "blocks.1.otherwise.0.columns.1.0"],
      ["g", "blocks.2"],
      ["h", "blocks.3"],
    ]);
    expect(spokenBlocks(CONTENT, "de").map((one) => one.words)).toEqual(["Liebe"]);
    // What says nothing is called by its kind.
    expect(spokenBlocks(CONTENT, "").find((one) => one.id === "g")?.words).toBe("Line");
  });

  it("is found by the part that somebody pointed at", () => {
    const found = (part: string) => blockOfPart(CONTENT, "", part)?.id;
    expect(found("blocks.1.otherwise.0.columns.1.0.text")).toBe("f");
    expect(found("blocks.1.arms.0.criteria")).toBe("b");
    expect(found("blocks.3.blocks.0.text")).toBe("h");
    expect(found("subject")).toBeUndefined();
    // One that stands tenth is not one that stands first.
    expect(found("blocks.10.text")).toBeUndefined();
  });
});
