import { describe, expect, it } from "vitest";
import { newPdf } from "./attachments";
import { merge } from "./drafts";
import {
  behind,
  following,
  readersOf,
  withLanguage,
  withMainLanguage,
  withoutLanguage,
  withWords,
  wordsIn,
} from "./languages";
import { EMPTY, MESSAGE_PARTS, readContent } from "./message";
import { wordsOf } from "./passages";
import { KINDS } from "./writing";

const paragraph = (text: string) => ({ ...KINDS.paragraph.fresh("p"), text: wordsOf(text) });
const main = { ...EMPTY, subject: "Two walks", blocks: [paragraph("Come")] };
const both = withLanguage(main, "de");

describe("a message in several languages", () => {
  it("begins another with the main words, and changes each by itself", () => {
    expect(wordsIn(both, 0)).toMatchObject({ language: "de", subject: "Two walks" });
    const german = withWords(both, 0, {
      ...wordsIn(both, 0),
      subject: "Zwei Wege",
      blocks: [paragraph("Kommt")],
    });
    expect(german.subject).toBe("Two walks");
    expect(german.others[0]).toMatchObject({ language: "de", subject: "Zwei Wege" });
    expect(withWords(german, undefined, { ...german, subject: "Three" }).others).toBe(german.others);
    expect(withoutLanguage(german, 0).others).toEqual([]);
    expect(wordsIn(main, 4)).toBe(main);
  });

  it("knows what the main words changed since another followed them", () => {
    const [other] = both.others;
    if (!other) throw new Error("no other");
    expect(behind(both, other)).toEqual([]);
    const changed = { ...both, subject: "Three walks", blocks: [paragraph("Come along")] };
    expect(behind(changed, other).map((one) => one.what)).toEqual(["Subject", "Paragraph"]);
    const [now] = following(changed, 0).others;
    expect(now && behind(changed, now)).toEqual([]);
    expect(behind(changed, { ...other, basis: null })).toEqual([]);
  });

  it("keeps what goes with the main words with them in whatever language they are", () => {
    const went = [newPdf(), { ...newPdf(), language: "" }, { ...newPdf(), language: "de" }];
    const english = withMainLanguage({ ...both, attachments: went }, "en");
    expect(english.language).toBe("en");
    expect(english.attachments.map((one) => one.language)).toEqual([null, "en", "de"]);
    // Other words have no attachments of their own.
    expect(withWords(english, 0, { ...wordsIn(english, 0), subject: "Zwei" }).attachments).toBe(
      english.attachments,
    );
  });

  it("is looked at by those who read a language", () => {
    expect(readersOf("everyone", "de")).toBe('language starts with "de"');
    expect(readersOf('town is "Skarn" or volunteer', "de")).toBe(
      '(town is "Skarn" or volunteer) and language starts with "de"',
    );
    expect(readersOf("volunteer", "")).toBe("volunteer");
  });

  it("is merged by language: two who write in two are not in each other's way", () => {
    const doc = (content: typeof both) => ({ name: "n", content });
    const three = withLanguage(both, "pl");
    const mine = withWords(three, 0, { ...wordsIn(three, 0), subject: "Zwei Wege" });
    const theirs = withWords(three, 1, { ...wordsIn(three, 1), subject: "Dwa spacery" });
    const merged = merge(MESSAGE_PARTS, doc(three), doc(mine), doc(theirs));
    expect(merged.clashes).toEqual([]);
    expect(merged.doc.content.others.map((one) => one.subject)).toEqual(["Zwei Wege", "Dwa spacery"]);
    const gone = merge(MESSAGE_PARTS, doc(three), doc(withoutLanguage(three, 1)), doc(mine));
    expect(gone.doc.content.others.map((one) => one.subject)).toEqual(["Zwei Wege"]);
  });

  it("is read as it was stored, its blocks with ids", () => {
    const stored = { ...EMPTY, others: [{ language: "de", subject: "", blocks: [{ kind: "divider" }] }] };
    expect(readContent(stored).others[0]?.blocks).toEqual([{ kind: "divider", id: "b1" }]);
    expect(readContent({ subject: "old" }).others).toEqual([]);
  });
});
