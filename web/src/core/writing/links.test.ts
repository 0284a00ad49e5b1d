import fc from "fast-check";
import { describe, expect, it } from "vitest";
import { addressesIn, linked, wholeAddress } from "./links";

const found = (text: string) => addressesIn(text).map((one) => one.address);

describe("addresses in running text", () => {
  it("end where the sentence goes on", () => {
    expect(found("See https://skarnmuseum.example/walks, or (http://a.example/b_(c)).")).toEqual([
      "https://skarnmuseum.example/walks",
      "http://a.example/b_(c)",
    ]);
    expect(found("„https://a.example/x?y=1&z=2#d“ … [https://b.example]!")).toEqual([
      "https://a.example/x?y=1&z=2#d",
      "https://b.example",
    ]);
    expect(found("https:// is none, nor is ftp://a.example, and xhttps://a.example is not one")).toEqual([]);
    expect(found("https://a.example/@{contact_no} ends before an inlay")).toEqual(["https://a.example/"]);
  });

  it("are the same text once they are links", () => {
    const texts = fc.array(
      fc.constantFrom(
        "https://a.example/b",
        "http://c.example",
        " ",
        ".",
        ")",
        "(",
        "words",
        "\n",
        "@{town}",
      ),
    );
    fc.assert(
      fc.property(texts, (parts) => {
        const text = parts.join("");
        const passages = linked(text);
        expect(passages.map((one) => one.text).join("")).toBe(text);
        for (const one of passages) if (one.link) expect(one.link).toBe(one.text);
      }),
    );
  });

  it("are told from words that hold one", () => {
    expect(wholeAddress(" https://a.example/b ")).toBe("https://a.example/b");
    expect(wholeAddress("mailto:walks@skarnmuseum.example")).toBe("mailto:walks@skarnmuseum.example");
    expect(wholeAddress("see https://a.example")).toBeUndefined();
    expect(wholeAddress("javascript:alert(1)")).toBeUndefined();
  });
});
