import { describe, expect, it } from "vitest";
import { type Passage, textOf, withText, wordsOf } from "./passages";

const plain = { bold: false, italic: false, colour: "" as const, link: "" };
const words: Passage[] = [
  { ...plain, text: "Dear " },
  { ...plain, text: "friend", bold: true },
  { ...plain, text: ", come" },
];

describe("words whose text is changed", () => {
  it("keep the marks of what stays", () => {
    expect(withText(words, "Dear old friend, come")).toEqual([
      { ...plain, text: "Dear old " },
      { ...plain, text: "friend", bold: true },
      { ...plain, text: ", come" },
    ]);
    expect(withText(words, "Dear friends, come")[1]).toEqual({ ...plain, text: "friends", bold: true });
    expect(withText(words, "Dear , come")).toEqual([{ ...plain, text: "Dear , come" }]);
  });

  it("say what was typed, whatever it was", () => {
    for (const text of [
      "",
      "Dear",
      "friend",
      "xDear friend, come",
      "Dear friend, comex",
      "aaaa",
      "Dear friendfriend, come",
    ]) {
      expect(textOf(withText(words, text))).toBe(text);
      expect(textOf(withText(wordsOf("aa"), text))).toBe(text);
    }
  });

  it("are plain where there were none", () => {
    expect(withText([], "new")).toEqual(wordsOf("new"));
    expect(wordsOf("")).toEqual([]);
  });
});
