import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { chipWords, piecesOf, type Role, readInlay, sayPlainly, unpaired, writeInlay } from "./inlays";

const SIGNS = [
  "@",
  "{",
  "}",
  '"',
  "\\",
  "\n",
  "a",
  " ",
  "#",
  "if x",
  "end",
  "else",
  "as",
  "@{",
  "@@{",
  "é",
  "😀",
];
const anyText = fc.array(fc.constantFrom(...SIGNS), { maxLength: 30 }).map((signs) => signs.join(""));

describe("a text with inlays", () => {
  it("is the same text again, whatever it was", () => {
    fc.assert(
      fc.property(anyText, (text) => {
        const pieces = piecesOf(text);
        expect(pieces.map((one) => one.text).join("")).toBe(text);
        for (const one of pieces.filter((piece) => piece.inlay)) expect(piecesOf(one.text)).toEqual([one]);
      }),
      { seed: 7, numRuns: 2_000 },
    );
  });

  it("is cut as the merge language cuts it", () => {
    const cut = (text: string) => piecesOf(text).map((one) => (one.inlay ? `[${one.text}]` : one.text));
    expect(cut('Dear @{first_name else "a}b"}, @@{ and')).toEqual([
      "Dear ",
      '[@{first_name else "a}b"}]',
      ", @@{ and",
    ]);
    expect(cut("@{a}@{b}")).toEqual(["[@{a}]", "[@{b}]"]);
    expect(cut("@{open @{a}")).toEqual(["[@{open @{a}]"]);
    expect(cut("@{a\n}")).toEqual(["@{a\n}"]);
    expect(cut("x @{never closed")).toEqual(["x @{never closed"]);
  });

  it("takes time in step with its length, also where nothing is closed", () => {
    expect(piecesOf('@{"'.repeat(20_000))).toHaveLength(1);
  });
});

describe("an inlay", () => {
  it.each([
    ["@{first_name}", { role: "insert", value: "first_name", format: "", pattern: "", fallback: undefined }],
    [
      '@{renews_on + 14 days as date "d MMMM" else "soon \\"or\\" later"}',
      {
        role: "insert",
        value: "renews_on + 14 days",
        format: "date",
        pattern: "d MMMM",
        fallback: 'soon "or" later',
      },
    ],
    ['@{join(", ", town, country)}', { role: "insert", value: 'join(", ", town, country)' }],
    ['@{if membership is "Patron"}', { role: "if", value: 'membership is "Patron"' }],
    ["@{else}", { role: "else", value: "" }],
    ["@{each b in walk_bookings by date}", { role: "each", value: "b in walk_bookings by date" }],
    ["@{# ask Tomas }", { role: "note", value: "ask Tomas" }],
  ])("%s is read, and written as it was", (source, meant) => {
    expect(readInlay(source)).toMatchObject(meant);
    expect(writeInlay(readInlay(source))).toBe(source);
  });

  it("that is written from any fallback is one inlay, and is read as that", () => {
    fc.assert(
      fc.property(fc.string({ maxLength: 20 }), (fallback) => {
        const text = writeInlay({ role: "insert", value: "town", format: "", pattern: "", fallback });
        expect(piecesOf(text)).toEqual([{ text, inlay: true }]);
        expect(readInlay(text).fallback).toBe(fallback.replace(/\s*\n\s*/g, " "));
      }),
      { seed: 7 },
    );
  });

  it("says what it does in plain words", () => {
    const labels: Record<string, string> = { first_name: "First name", walk_bookings: "Walk bookings" };
    const said = (source: string) => {
      const { main, aside } = chipWords(readInlay(source), (key) => labels[key]);
      return [main, aside].filter(Boolean).join(" ");
    };
    expect(said('@{first_name else "friend"}')).toBe("First name else friend");
    expect(said("@{count(walk_bookings)}")).toBe("how many Walk bookings");
    expect(said("@{renews_on as date}")).toBe("renews_on date");
    expect(said("@{each b in walk_bookings}")).toBe("for each of Walk bookings");
    expect(said("@{if volunteer}")).toBe("only for volunteer");
  });

  it("is read on one line as somebody might read it", () => {
    expect(sayPlainly('@{first_name else "Hello"}, @{if volunteer}come@{end} on @{renews_on as date}')).toBe(
      "Hello, come on ‹renews on›",
    );
  });
});

describe("what begins and ends", () => {
  it.each<[Role[], number[]]>([
    [["if", "else", "end"], []],
    [["if", "insert", "if", "end"], [0]],
    [
      ["else", "if", "end", "end"],
      [0, 3],
    ],
    [
      ["each", "elif"],
      [0, 1],
    ],
  ])("of %j, %j have no partner", (roles, lone) => {
    expect(unpaired(roles)).toEqual(lone);
  });

  it("is whole when what has no partner is taken out", () => {
    const role = fc.constantFrom<Role>("if", "elif", "else", "each", "end", "insert");
    fc.assert(
      fc.property(fc.array(role, { maxLength: 12 }), (roles) => {
        const lone = new Set(unpaired(roles));
        expect(unpaired(roles.filter((_, at) => !lone.has(at)))).toEqual([]);
      }),
      { seed: 7 },
    );
  });
});
