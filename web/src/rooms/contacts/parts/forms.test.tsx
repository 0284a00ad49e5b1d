import { fireEvent, screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../../api";
import type { SourceEdit } from "../../../core/sources";
import type { Column, ColumnKind } from "../../../core/table";
import type { ListShape } from "../../../core/values";
import { show, showEditing } from "../../../test-show";
import type { ImportView } from "../useImport";
import { FileForm } from "./imports/FileForm";
import { ValueInput } from "./person/ValueInput";
import { AccessForm } from "./sources/AccessForm";
import { WhenForm } from "./sources/WhenForm";
import { ColumnPicker } from "./table/ColumnPicker";
import { HeadCell } from "./table/HeadCell";

const set = (label: string, value: string) =>
  fireEvent.change(screen.getByLabelText(label), { target: { value } });
const words = (label: string) =>
  within(screen.getByLabelText(label))
    .getAllByRole("option")
    .map((one) => one.textContent);

describe("a list beside a person", () => {
  const part = (key: string, type: string) => ({ key, label: key, type, currency: null, choices: [] });
  const loans: ListShape = {
    ...part("loans", "list"),
    label: "Loan",
    parts: [part("what", "text"), part("due", "date")],
  };
  const edit = (text: string) =>
    showEditing(text, (value, onText) => (
      <ValueInput label="Loans" field={loans} text={value} onText={onText} />
    ));

  it("is told as its records are filled, without those that have no word yet", () => {
    const { latest } = edit("");
    set("what", 'Lamp "No. 7", [old]');
    fireEvent.click(screen.getByRole("button", { name: "Add one" }));
    expect(JSON.parse(latest())).toEqual([{ what: 'Lamp "No. 7", [old]' }]);
    fireEvent.change(screen.getAllByLabelText("due")[1] as HTMLElement, { target: { value: "2026-12-01" } });
    expect(JSON.parse(latest())).toEqual([{ what: 'Lamp "No. 7", [old]' }, { due: "2026-12-01" }]);
    fireEvent.click(screen.getByRole("button", { name: "Remove Loan 1" }));
    expect(JSON.parse(latest())).toEqual([{ due: "2026-12-01" }]);
    fireEvent.click(screen.getByRole("button", { name: "Remove Loan 1" }));
    expect(latest()).toBe("");
  });

  it("that cannot be read begins anew instead of breaking the page", () => {
    edit("[{not json");
    expect(screen.getAllByLabelText("what")).toHaveLength(1);
  });
});

describe("how a file is read", () => {
  const told = (form: Partial<ImportView["form"]>) => {
    const asked: Schemas["FormChoice"][] = [];
    const view = { form: { kind: "delimited", guessed: false, ...form } } as unknown as ImportView;
    show(<FileForm view={view} onForm={(choice) => asked.push(choice)} />);
    return asked;
  };

  it("offers what was found, a rare divider too", () => {
    const asked = told({ delimiter: "§", encoding: "windows-1252", guessed: true });
    expect((screen.getByLabelText("Columns are divided by") as HTMLSelectElement).value).toBe("§");
    expect(screen.getByText(/not written in UTF-8/)).toBeTruthy();
    set("Columns are divided by", ";");
    set("Encoding", "iso-8859-7");
    expect(asked).toEqual([{ delimiter: ";" }, { encoding: "iso-8859-7" }]);
  });

  it("asks for another range only when it is another", () => {
    const asked = told({ kind: "workbook", sheets: ["Friends", "Old"], sheet: "Friends" });
    const range = screen.getByLabelText("Range");
    fireEvent.blur(range);
    expect(asked).toEqual([]);
    set("Range", "B3:F90");
    fireEvent.keyDown(range, { key: "Enter" });
    set("Sheet", "Old");
    expect(asked).toEqual([{ range: "B3:F90" }, { sheet: "Old", range: null }]);
    expect(screen.queryByLabelText("Encoding")).toBeNull();
  });
});

describe("a live source", () => {
  const first: SourceEdit = {
    name: "Shop", kind: "postgresql", host: "db.example", port: 6000, database: "shop", username: "", password: null,
    tls: true, table: "", select: "", every: "", at: "05:00", weekday: 0, before_runs: false, gone_tag: "",
  } as unknown as SourceEdit; // biome-ignore format: a record of plain values
  const edit = (files: string[]) =>
    showEditing(first, (value, onEdit) => (
      <AccessForm
        edit={value}
        source={undefined}
        files={files}
        onEdit={(change) => onEdit({ ...value, ...change })}
      />
    ));

  it("of another kind forgets the place of the first", () => {
    const { latest } = edit(["shop.sqlite"]);
    set("Kind", "sqlite");
    expect(latest()).toMatchObject({ kind: "sqlite", port: null, database: "shop.sqlite" });
    expect(screen.queryByLabelText("Host")).toBeNull();
    set("Kind", "mysql");
    expect(latest()).toMatchObject({ kind: "mysql", port: null, database: "" });
  });

  it("offers a file only where there is one", () => {
    edit([]);
    expect(words("Kind").join()).not.toMatch(/SQLite/);
  });

  it("asks for a day and an hour only where they matter, and says what comes before", () => {
    const { latest } = showEditing(first, (value, onEdit) => (
      <WhenForm edit={value} known={false} onEdit={(change) => onEdit({ ...value, ...change })} />
    ));
    expect(screen.queryByLabelText("At")).toBeNull();
    expect(screen.queryByText(/Fetch it by hand/)).toBeNull();
    set("By itself", "week");
    set("On", "4");
    set("At", "06:30");
    expect(latest()).toMatchObject({ every: "week", weekday: 4, at: "06:30" });
    expect(screen.getByText(/Fetch it by hand/)).toBeTruthy();
    set("By itself", "hour");
    expect(screen.queryByLabelText("At")).toBeNull();
  });
});

describe("the columns of the table", () => {
  const kinds = ["name", "town", "pledge"].map((key) => ({
    key,
    label: key,
    sortable: key !== "pledge",
  })) as ColumnKind[];
  const columns: Column[] = [
    { key: "name", width: 100 },
    { key: "town", width: 100 },
  ];
  const keys = (list: Column[]) => list.map((one) => one.key);

  it("are put in, taken out and moved", async () => {
    const { latest } = showEditing(columns, (value, onColumns) => (
      <ColumnPicker columns={value} kinds={kinds} onColumns={onColumns} />
    ));
    fireEvent.click(screen.getByRole("button", { name: "Columns" }));
    fireEvent.click(await screen.findByLabelText("pledge"));
    expect(keys(latest())).toEqual(["name", "town", "pledge"]);
    fireEvent.click(screen.getByRole("button", { name: "pledge further left" }));
    fireEvent.click(screen.getByRole("button", { name: "name further left" }));
    fireEvent.click(screen.getByRole("button", { name: "name further right" }));
    expect(keys(latest())).toEqual(["pledge", "name", "town"]);
    fireEvent.click(screen.getByLabelText("name"));
    expect(keys(latest())).toEqual(["pledge", "town"]);
  });

  it("are sorted by a click and sized by arrow keys", () => {
    const told: (number | string)[] = [];
    const [name] = columns as [Column];
    const head = (kind: ColumnKind | undefined, sort: string) =>
      show(
        <HeadCell
          column={name}
          kind={kind}
          sort={sort}
          onSort={() => told.push("sort")}
          onResize={(width) => told.push(width)}
        />,
      );
    const { unmount } = head(kinds[0], "-name");
    expect(screen.getByRole("columnheader").getAttribute("aria-sort")).toBe("descending");
    fireEvent.click(screen.getByRole("button", { name: /name/ }));
    const edge = screen.getByRole("separator", { name: "Width of name" });
    for (const key of ["ArrowRight", "ArrowLeft", "a"]) fireEvent.keyDown(edge, { key });
    expect(told).toEqual(["sort", 120, 80]);
    unmount();
    // A field that was removed since has a head, but nothing to sort by.
    head(undefined, "");
    expect(screen.queryByRole("button")).toBeNull();
  });
});
