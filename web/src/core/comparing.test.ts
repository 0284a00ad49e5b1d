import { describe, expect, it } from "vitest";
import { compared } from "./comparing";
import { EMPTY } from "./message";
import { wordsOf } from "./passages";
import { KINDS } from "./writing";

const paragraph = (id: string, text: string) => ({ ...KINDS.paragraph.fresh(id), text: wordsOf(text) });
const older = {
  ...EMPTY,
  subject: "Two walks",
  blocks: [paragraph("a", "Come to the Scree Path"), paragraph("b", "Bring a lamp"), paragraph("c", "Yours")],
};

describe("two versions", () => {
  it("that are the same do not differ", () => {
    expect(compared(older, structuredClone(older))).toEqual([]);
  });

  it("differ word by word, in the order of the newer one, with what is gone where it was", () => {
    const newer = {
      ...older,
      subject: "Three walks",
      blocks: [
        paragraph("c", "Yours"),
        paragraph("a", "Come to the Copper Adit"),
        { ...KINDS.divider.fresh("d") },
      ],
    };
    const found = compared(older, newer);
    expect(found.map((one) => one.what)).toEqual(["Subject", "Paragraph", "Paragraph", "Line"]);
    expect(found[0]?.stretches).toEqual([
      { text: "Two", in: "older" },
      { text: "Three", in: "newer" },
      { text: " walks", in: "both" },
    ]);
    const gone = found.find((one) => one.stretches.some((each) => each.text === "Bring a lamp"));
    expect(gone?.stretches).toEqual([{ text: "Bring a lamp", in: "older" }]);
    for (const side of ["older", "newer"] as const) {
      const said = found[1]?.stretches.filter((one) => one.in === side || one.in === "both");
      expect(said?.map((one) => one.text).join("")).toBe(
        `Come to the ${side === "older" ? "Scree Path" : "Copper Adit"}`,
      );
    }
  });

  it("lose no block that was taken out, also behind one that was moved", () => {
    const newer = {
      ...older,
      blocks: [paragraph("b", "Bring a lamp"), paragraph("a", "Come to the Scree Path")],
    };
    expect(compared(older, newer).map((one) => one.stretches)).toEqual([[{ text: "Yours", in: "older" }]]);
  });

  it("have an inlay as one word", () => {
    const found = compared(older, { ...older, subject: '@{first_name else "Hello"}, two walks' });
    const put = found[0]?.stretches.filter((one) => one.in === "newer").map((one) => one.text);
    expect(put?.join("")).toContain('@{first_name else "Hello"}');
    expect(put?.every((text) => text.includes("@{") === text.includes("}"))).toBe(true);
  });

  it("do not differ where members stand in another order", () => {
    const turned = older.blocks.map(({ id, ...rest }) => ({ ...rest, id }));
    expect(compared(older, { ...older, blocks: turned })).toEqual([]);
  });

  it("that say the same and are set otherwise are told apart from those with other words", () => {
    const centred = { ...paragraph("a", "Come to the Scree Path"), align: "centre" as const };
    const found = compared(older, { ...older, blocks: [centred, ...older.blocks.slice(1)] });
    expect(found.map((one) => [one.what, one.onlySet])).toEqual([["Paragraph", true]]);
  });
});
