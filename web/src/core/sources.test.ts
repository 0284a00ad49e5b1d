import { describe, expect, it } from "vitest";
import { emptySource, pullWords, sourceBody, sourceEdit } from "./sources";

describe("a live source", () => {
  it("goes to the server and back without a change", () => {
    const edit = {
      ...emptySource([]),
      name: "Shop",
      host: "db.example",
      port: 5433,
      database: "shop",
      own: true,
      select: "SELECT 1 AS email",
      every: "week" as const,
      weekday: 3,
      gone_tag: "gone",
    };
    const body = sourceBody(edit, undefined);
    const { access, ...rest } = body;
    const stored = { ...rest, ...access, port: access.port ?? 0, id: 1, revision: 1 };
    expect(sourceEdit(stored)).toEqual(edit);
  });

  it("sends either a table or a SELECT, whichever is chosen", () => {
    const both = { ...emptySource(["a.db"]), table: "people", select: "SELECT 1" };
    expect(sourceBody({ ...both, own: false }, undefined)).toMatchObject({ table: "people", select: "" });
    expect(sourceBody({ ...both, own: true }, undefined)).toMatchObject({ table: "", select: "SELECT 1" });
  });
});

describe("what a pull found", () => {
  it.each([
    [{ rows: 1200 }, "1,200 rows; fetched for the first time"],
    [{ rows: 3, since_new: 0, since_changed: 0, gone: 0 }, "3 rows; as the last time"],
    [{ rows: 9, since_new: 2, since_changed: 0, gone: 1 }, "9 rows; 2 new, 1 gone since the last time"],
  ])("%j is said as “%s”", (found, words) => {
    expect(pullWords({ new: 0, changed: 0, same: 0, refused: 0, ...found })).toBe(words);
  });
});
