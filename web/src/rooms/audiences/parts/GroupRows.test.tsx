import { fireEvent, screen, within } from "@testing-library/react";
import { describe, expect, it } from "vitest";
import type { Schemas } from "../../../api";
import type { Group, Leaf, NameLists, Node } from "../../../core/criteria";
import { showEditing } from "../../../test-show";
import { GroupRows } from "./GroupRows";

type Field = Schemas["FieldView"];

const field = (key: string, type: string, more: Partial<Field> = {}): Field => ({
  key,
  label: key.replace("_", " "),
  help: "",
  type,
  currency: null,
  choices: [],
  parts: [],
  samples: [],
  blank: 0,
  estimated: false,
  standard: false,
  ...more,
});
const operator = (key: string, words: string, operands: string, ...types: string[]) => ({
  key,
  words,
  operands,
  types,
  meaning: "",
});
const vocabulary: Schemas["Vocabulary"] = {
  organisation: "Skarn Valley Mineral Museum",
  locale: "en",
  time_zone: "Europe/London",
  fields: [
    field("membership", "choice", { choices: ["Friend", "Fellow", "Patron"] }),
    field("town", "text", { samples: ["Skarn", "Breccia"] }),
    field("pledge", "money", { currency: "EUR" }),
    field("renews_on", "date"),
    field("entered_at", "date_time"),
    field("volunteer", "yes_no"),
    field("loans", "list", {
      parts: [
        { key: "what", label: "What", type: "text", currency: null, choices: [] },
        { key: "due", label: "Due", type: "date", currency: null, choices: [] },
      ] as Field["parts"],
    }),
  ],
  asked_only: [field("domain", "text")],
  operators: [
    operator("is", "is", "one", "text", "choice", "money", "date", "date_time"),
    operator("in", "is one of", "list", "text", "choice", "money"),
    operator("between", "is between", "two", "money", "date"),
    operator("more", "more than", "one", "money", "number"),
    operator("within_next", "within next", "period", "date"),
    operator("blank", "is blank", "none", "text", "choice", "money", "date", "yes_no", "list"),
    operator("not_blank", "is not blank", "none", "text", "choice", "money", "date", "yes_no", "list"),
    operator("yes", "", "none", "yes_no"),
  ],
  subjects: [
    { key: "history", label: "Their mail", names: "campaign" },
    { key: "subscribed", label: "Subscribed to", names: "topic" },
    { key: "tagged", label: "Tagged", names: "tag" },
    { key: "in_audience", label: "In audience", names: "audience" },
    { key: "imported", label: "Imported from", names: "file" },
    { key: "by_sql", label: "Chosen by SQL", names: null },
  ],
  events: ["received", "opened", "clicked", "replied", "bounced"],
  languages: [],
  formats: {},
  provided: [],
  tags: [],
  currencies: ["EUR"],
  topics: [],
  senders: [],
  pools: [],
};
const names: NameLists = {
  topics: ["field_walks", "lectures"],
  tags: ["lamp owner"],
  campaigns: ["Walks", "Lectures"],
  files: [],
  audiences: ["Neighbours"],
};

const everyone: Group = { kind: "all", children: [] };
const inTown = (town: string): Leaf => ({
  kind: "condition",
  field: "town",
  operator: "is",
  values: [{ kind: "text", text: town }],
  counted: false,
});
const all = (...children: Node[]): Group => ({ kind: "all", children });

const edit = (first: Group) =>
  showEditing(first, (root, onRoot) => (
    <GroupRows root={root} path={[]} vocabulary={vocabulary} names={names} onRoot={onRoot} />
  ));
const choose = (label: string, value: string, at = 0) =>
  fireEvent.change(screen.getAllByLabelText(label)[at] as HTMLElement, { target: { value } });
const press = (name: string, at = 0) =>
  fireEvent.click(screen.getAllByRole("button", { name })[at] as HTMLElement);

describe("the rows of the criteria", () => {
  it("begin with everyone and grow a condition that holds from the start", () => {
    const { latest } = edit(everyone);
    expect(screen.getByText("everyone")).toBeTruthy();
    press("Add condition");
    expect(latest()).toEqual(
      all({
        kind: "condition",
        field: "membership",
        operator: "is",
        values: [{ kind: "text", text: "Friend" }],
        counted: false,
      }),
    );
    choose("Value", "Patron");
    press("Remove the condition on membership");
    expect(latest()).toEqual(everyone);
    expect(screen.getByText("everyone")).toBeTruthy();
  });

  it.each([
    ["field town", { field: "town", operator: "is", values: [{ kind: "text", text: "" }], counted: false }],
    [
      "field pledge",
      {
        field: "pledge",
        operator: "is",
        values: [{ kind: "money", amount: "50", currency: "EUR" }],
        counted: false,
      },
    ],
    ["field volunteer", { field: "volunteer", operator: "yes", values: [], counted: false }],
    [
      "field domain",
      { field: "domain", operator: "is", values: [{ kind: "text", text: "" }], counted: false },
    ],
    [
      "field loans",
      { field: "loans", operator: "more", values: [{ kind: "number", number: "0" }], counted: true },
    ],
    [
      "history",
      {
        kind: "history",
        event: "opened",
        campaign: null,
        within: { kind: "period", count: 60, unit: "days" },
        never: false,
      },
    ],
    ["subscribed", { kind: "subscribed", topic: "field_walks", since: null, as_of: null }],
    ["tagged", { kind: "tagged", tag: "lamp owner" }],
    ["in_audience", { kind: "in_audience", audience: "Neighbours" }],
    ["imported", { kind: "imported", file: "" }],
  ])("can be about %s, and begin with what is there", (subject, leaf) => {
    const { latest } = edit(all(inTown("Skarn")));
    choose("What it is about", subject);
    expect(latest().children).toEqual([{ kind: "condition", ...leaf }]);
  });

  it("keep a value where another operator still takes it", () => {
    const { latest } = edit(
      all({
        kind: "condition",
        field: "pledge",
        operator: "is",
        values: [{ kind: "money", amount: "120", currency: "EUR" }],
        counted: false,
      }),
    );
    choose("Operator", "between");
    const [first, second] = screen.getAllByLabelText("Value") as HTMLInputElement[];
    expect([first?.value, second?.value]).toEqual(["120", "120"]);
    fireEvent.change(second as HTMLElement, { target: { value: "300" } });
    expect(latest().children[0]).toMatchObject({
      operator: "between",
      values: [{ amount: "120" }, { amount: "300" }],
      counted: false,
    });
    choose("Operator", "blank");
    expect(latest().children[0]).toMatchObject({ operator: "blank", values: [], counted: false });
  });

  it.each(["", "-", "1,5", "a lot"])(
    "leave what was typed as it is, and tell what is no number as a text: “%s”",
    (typed) => {
      const { latest } = edit(
        all({
          kind: "condition",
          field: "pledge",
          operator: "is",
          values: [{ kind: "money", amount: "120", currency: "EUR" }],
          counted: false,
        }),
      );
      choose("Value", typed);
      const box = screen.getByLabelText("Value") as HTMLInputElement;
      expect(box.value).toBe(typed);
      expect(box.getAttribute("aria-invalid")).toBe("true");
      expect(latest().children[0]).toMatchObject({ values: [{ kind: "text", text: typed }], counted: false });
      choose("Value", "1,000");
      expect(box.value).toBe("1,000");
      expect(latest().children[0]).toMatchObject({
        values: [{ kind: "money", amount: "1000" }],
        counted: false,
      });
    },
  );

  it("have no value yet where one is taken out of a list, and say so", () => {
    const { latest } = edit(
      all({
        kind: "condition",
        field: "membership",
        operator: "in",
        values: [{ kind: "text", text: "Friend" }],
        counted: false,
      }),
    );
    const box = screen.getAllByLabelText("Values").find((one) => one.tagName === "INPUT");
    fireEvent.keyDown(box as HTMLElement, { key: "Backspace" });
    expect(latest().children[0]).toMatchObject({ values: [{ kind: "text", text: "" }], counted: false });
  });

  it("give a day by the calendar or by its distance, which keeps its length", () => {
    const { latest } = edit(
      all({
        kind: "condition",
        field: "renews_on",
        operator: "is",
        values: [{ kind: "date", day: "2026-12-01" }],
        counted: false,
      }),
    );
    const value = () => (latest().children[0] as { values: unknown[] }).values[0];
    choose("How the day is given", "after");
    expect(value()).toEqual({ kind: "today", count: 30, unit: "days" });
    choose("How many", "6");
    choose("Unit", "weeks");
    choose("How the day is given", "before");
    expect(value()).toEqual({ kind: "today", count: -6, unit: "weeks" });
    choose("How the day is given", "today");
    expect(value()).toEqual({ kind: "today", count: 0, unit: "days" });
    expect(screen.queryByLabelText("How many")).toBeNull();
    const ways = within(screen.getByLabelText("How the day is given")).getAllByRole("option");
    // Only an instant can be now.
    expect(ways.map((one) => (one as HTMLOptionElement).value)).not.toContain("now");
    choose("What it is about", "field entered_at");
    choose("How the day is given", "now");
    expect(value()).toEqual({ kind: "now" });
  });

  it("nest, deny and lose groups without touching what stands beside them", () => {
    const { latest } = edit(all(inTown("Skarn"), { kind: "any", children: [inTown("Breccia")] }));
    press("Add condition", 1);
    choose("How the conditions are joined", "none", 1);
    expect(latest().children[0]).toEqual(inTown("Skarn"));
    expect(latest().children[1]).toMatchObject({
      kind: "not",
      child: { kind: "any", children: [inTown("Breccia"), {}] },
    });
    press("Add group", 1);
    expect(latest().children[1]).toMatchObject({ child: { children: [{}, {}, { kind: "any" }] } });
    press("Remove group", 1);
    press("Remove group");
    expect(latest()).toEqual(all(inTown("Skarn")));
  });

  it("turn the whole into its contrary and back", () => {
    const { latest } = edit(all(inTown("Skarn"), inTown("Breccia")));
    choose("How the conditions are joined", "none");
    expect(latest()).toEqual(
      all({ kind: "not", child: { kind: "any", children: [inTown("Skarn"), inTown("Breccia")] } }),
    );
    choose("How the conditions are joined", "all", 1);
    expect(latest()).toEqual(all(all(inTown("Skarn"), inTown("Breccia"))));
  });

  it("nest no deeper than can be read", () => {
    let root: Group = all(inTown("Skarn"));
    for (let depth = 0; depth < 4; depth += 1) root = all(root);
    edit(root);
    expect(screen.getAllByRole("button", { name: "Add condition" })).toHaveLength(5);
    expect(screen.getAllByRole("button", { name: "Add group" })).toHaveLength(4);
  });

  it("ask a list by its records, which have conditions of their own, or by how many", () => {
    const { latest } = edit(all(inTown("Skarn")));
    choose("What it is about", "field loans");
    choose("How the list is asked about", "any");
    expect(latest().children[0]).toMatchObject({
      kind: "items",
      quantifier: "any",
      child: { field: "what" },
    });
    choose("What it is about", "field due", 1);
    choose("Operator", "within_next");
    choose("How the list is asked about", "every");
    const asked = {
      kind: "condition",
      field: "due",
      operator: "within_next",
      values: [{ kind: "period", count: 30, unit: "days" }],
      counted: false,
    };
    expect(latest().children[0]).toEqual({
      kind: "items",
      field: "loans",
      quantifier: "every",
      child: asked,
    });
    // The last condition on a record cannot go: without one, nothing could hold.
    press("Remove the condition on Due");
    expect(latest().children[0]).toMatchObject({ child: asked });
    // Within a list there is nothing to name but its parts.
    const subjects = within(screen.getAllByLabelText("What it is about")[1] as HTMLElement).getAllByRole(
      "option",
    );
    expect(subjects.map((one) => one.textContent)).toEqual(["What", "Due"]);
    choose("How the list is asked about", "count");
    expect(latest().children[0]).toMatchObject({ field: "loans", operator: "more", counted: true });
    const able = within(screen.getByLabelText("Operator")).getAllByRole("option");
    expect(able.map((one) => one.textContent)).not.toContain("is blank");
  });

  it("leave what has gone to be seen: a field, a choice, a name", () => {
    const { edits } = edit(
      all(
        { kind: "condition", field: "shoe_size", operator: "is", values: [], counted: false },
        {
          kind: "condition",
          field: "membership",
          operator: "is",
          values: [{ kind: "text", text: "Duke" }],
          counted: false,
        },
        { kind: "tagged", tag: "gone" },
        { kind: "imported", file: "" },
      ),
    );
    const shown = (label: string, at = 0) => {
      const select = screen.getAllByLabelText(label)[at] as HTMLSelectElement;
      return select.selectedOptions[0]?.textContent;
    };
    expect(shown("What it is about")).toBe("shoe_size?");
    expect(shown("Value")).toBe("Duke");
    expect(shown("Tag")).toBe("gone");
    expect(shown("File")).toBe("there is none yet");
    expect(edits).toEqual([]);
  });

  it("ask about mail: what happened, in which campaign, since when", () => {
    const { latest } = edit(
      all({ kind: "history", event: "opened", campaign: "Old walks", within: null, never: false }),
    );
    const campaign = screen.getByLabelText("In which campaign") as HTMLSelectElement;
    expect([...campaign.options].map((one) => one.textContent)).toEqual([
      "in any campaign",
      "Old walks",
      "Walks",
      "Lectures",
    ]);
    choose("What happened", "never clicked");
    choose("In which campaign", "Walks");
    choose("When", "last");
    choose("How many", "14");
    expect(latest().children).toEqual([
      {
        kind: "history",
        event: "clicked",
        campaign: "Walks",
        within: { kind: "period", count: 14, unit: "days" },
        never: true,
      },
    ]);
    choose("In which campaign", "");
    choose("When", "");
    expect(latest().children).toEqual([
      { kind: "history", event: "clicked", campaign: null, within: null, never: true },
    ]);
  });
});
