import { describe, expect, it } from "vitest";
import type { Content } from "./content";
import { EMPTY } from "./message";
import { wordsOf } from "./passages";
import { foundIn, replaced } from "./replacing";
import { KINDS } from "./writing";

const content: Content = {
  ...EMPTY,
  subject: "Walk with @{walk}",
  blocks: [
    { ...KINDS.paragraph.fresh("p"), text: wordsOf('A walk. @{if walk is "walk"}walks@{end}') },
    { ...KINDS.button.fresh("b"), label: "Walk", url: "https://a.example/walk" },
    {
      ...KINDS.only.fresh("o"),
      arms: [{ criteria: "walk", blocks: [{ ...KINDS.heading.fresh("h"), text: wordsOf("walk (1)") }] }],
    },
    KINDS.divider.fresh("d"),
  ],
};

describe("find and replace", () => {
  it("goes over what people read, in blocks of blocks too, and leaves inlays, addresses and criteria alone", () => {
    expect(foundIn(content, "walk")).toBe(5);
    const next = replaced(content, "walk", "tour");
    expect(next.subject).toBe("tour with @{walk}");
    expect(next.blocks[0]).toMatchObject({ text: [{ text: 'A tour. @{if walk is "walk"}tours@{end}' }] });
    expect(next.blocks[1]).toMatchObject({ label: "tour", url: "https://a.example/walk" });
    expect(next.blocks[2]).toMatchObject({ arms: [{ criteria: "walk" }] });
    expect(JSON.stringify(next.blocks[2])).toContain("tour (1)");
    expect(next.blocks[3]).toBe(content.blocks[3]);
    expect(foundIn(next, "walk")).toBe(0);
  });

  it("takes what is searched for and what is put there as they stand", () => {
    expect(foundIn(content, "(1)")).toBe(1);
    expect(foundIn(content, ".*")).toBe(0);
    expect(JSON.stringify(replaced(content, "(1)", "$&"))).toContain("walk $&");
    expect(foundIn(content, "")).toBe(0);
    expect(replaced(content, "", "x")).toBe(content);
  });
});
