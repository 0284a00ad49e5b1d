import { describe, expect, it } from "vitest";
import {
  MOST_OWN_FILES,
  newEntry,
  newFile,
  newOwnFiles,
  newPdf,
  sayAttachment,
  sayBytes,
  withFiles,
} from "./attachments";

const file = (name: string, digest = name) => ({ file: digest, name });

describe("files for each person", () => {
  it("are those that were there and those that came, the newer one of each name", () => {
    const files = withFiles([file("a.pdf"), file("b.pdf")], [file("b.pdf", "newer"), file("c.pdf")]);
    expect(files.map((one) => `${one.name} ${one.file}`)).toEqual([
      "a.pdf a.pdf",
      "b.pdf newer",
      "c.pdf c.pdf",
    ]);
  });

  it("are no more than a message takes", () => {
    const many = Array.from({ length: MOST_OWN_FILES + 5 }, (_, n) => file(`${n}.pdf`));
    expect(withFiles([], many)).toHaveLength(MOST_OWN_FILES);
    expect(withFiles(many.slice(0, MOST_OWN_FILES), [file("3.pdf", "newer")])[3]?.file).toBe("newer");
  });
});

describe("what is said of attachments", () => {
  it("differs wherever they do", () => {
    const own = { ...newOwnFiles(), name: "card @{contact_no}" };
    const said = [
      newFile({ file: "ab", name: "plan.pdf" }),
      { ...newEntry(), title: "Walk", day: "2027-03-28" },
      own,
      { ...own, needed: true },
      { ...own, files: [file("a.pdf")] },
      newPdf(),
      { ...newPdf(), message_id: 3 },
      { ...newPdf(), name: "card" },
      { ...newPdf(), language: "" },
      { ...newPdf(), language: "pl" },
    ].map(sayAttachment);
    expect(new Set(said).size).toBe(said.length);
    expect(said[0]).toBe("file plan");
    expect(said[3]).toBe("a file for each person, card @{contact_no}, 0 files, needed");
  });

  it("names sizes as people do", () => {
    expect([11, 999, 2_048, 1_000 * 1024, 5 << 20].map(sayBytes)).toEqual([
      "11 bytes",
      "999 bytes",
      "2 KB",
      "1.0 MB",
      "5.0 MB",
    ]);
  });
});
