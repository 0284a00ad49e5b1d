import { describe, expect, it } from "vitest";
import { columnPicks, confidenceWords, delimiterWords, pickOf, withPick, withReading } from "./imports";

const column = (header: string, field: string | null) => ({
  header,
  use: field ? "field" : "leave_out",
  field,
  date_order: null,
  century: null,
  decimal_comma: null,
  policy: "overwrite",
});
const COLUMNS = [column("E-mail", "address"), column("Ort", null), column("Town", "town")];

describe("the columns of a file", () => {
  it("are what the server told until something else is chosen", () => {
    expect(columnPicks(COLUMNS).map((one) => one.field)).toEqual(["address", null, "town"]);
    expect(COLUMNS.map(pickOf)).toEqual(["field address", "leave_out", "field town"]);
  });

  it("never go into one field twice: the field goes over to the column that was chosen last", () => {
    const picks = withPick(COLUMNS, 1, "field town");
    expect(picks.map((one) => [one.use, one.field])).toEqual([
      ["field", "address"],
      ["field", "town"],
      ["leave_out", null],
    ]);
    expect(COLUMNS[2]?.field).toBe("town");
    expect(withPick(COLUMNS, 2, "tags")[2]).toMatchObject({ use: "tags", field: null });
    expect(withPick(COLUMNS, 0, "leave_out")[0]).toMatchObject({ use: "leave_out", field: null });
  });

  it("are read as somebody says", () => {
    const picks = withReading(COLUMNS, 2, { policy: "fill", date_order: "dmy" });
    expect(picks[2]).toMatchObject({ field: "town", policy: "fill", date_order: "dmy" });
    expect(picks[0]?.policy).toBe("overwrite");
  });

  it("say how sure the match is", () => {
    expect(confidenceWords(0.86, "name")).toBe("86 % sure, by its name");
    expect(confidenceWords(0.8, "content")).toBe("80 % sure, by what stands in it");
    expect(confidenceWords(1, "memory")).toBe("as last time");
    expect(confidenceWords(0, "nothing")).toBe("");
    expect(delimiterWords("\t")).toBe("tab");
    expect(delimiterWords("~")).toBe("~");
  });
});
