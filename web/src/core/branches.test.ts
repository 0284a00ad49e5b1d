import { describe, expect, it } from "vitest";
import { branchesOf } from "./branches";
import { KINDS } from "./writing";

const only = (id: string, ...criteria: string[]) => ({
  ...KINDS.only.fresh(id),
  arms: criteria.map((one) => ({ criteria: one, blocks: [KINDS.only.fresh("inner")] })),
});

describe("blocks whose readers are counted", () => {
  it("stand by themselves or in columns, and in nothing that is for some already", () => {
    const blocks = [
      KINDS.paragraph.fresh("p"),
      only("a", "volunteer", "town is blank"),
      { ...KINDS.columns.fresh("c"), columns: [[only("b", "volunteer")], [KINDS.paragraph.fresh("q")]] },
      { ...KINDS.each.fresh("e"), blocks: [only("d", "b.walk is blank")] },
      only("", "volunteer"),
      only("many", ...Array.from({ length: 13 }, () => "volunteer")),
    ];
    expect(branchesOf(blocks)).toEqual([
      { id: "a", criteria: ["volunteer", "town is blank"] },
      { id: "b", criteria: ["volunteer"] },
    ]);
    expect(branchesOf(Array.from({ length: 60 }, (_, at) => only(`o${at}`, "volunteer")))).toHaveLength(40);
  });
});
