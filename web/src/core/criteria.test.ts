import { describe, expect, it } from "vitest";
import {
  addAt,
  asGroup,
  type Condition,
  dayWayOf,
  type FieldKind,
  firstLiteral,
  type Group,
  type Items,
  isLeaf,
  type Literal,
  type NameLists,
  type Node,
  newCondition,
  newLeaf,
  nodeAt,
  type OperatorKind,
  replaceAt,
  subjectOf,
  wayOf,
  withDayWay,
  withOperator,
  withOption,
  withWay,
} from "./criteria";

const is = (text: string): Condition => ({
  kind: "condition",
  field: "town",
  operator: "is",
  values: [{ kind: "text", text }],
  counted: false,
});
const group = (kind: "all" | "any", ...children: Node[]): Group => ({ kind, children });
const TODAY = "2026-11-23";

const town: FieldKind = { key: "town", type: "text", currency: null, choices: [] };
const pledge: FieldKind = { key: "pledge", type: "money", currency: "EUR", choices: [] };
const renews: FieldKind = { key: "renews_on", type: "date", currency: null, choices: [] };
const volunteer: FieldKind = { key: "volunteer", type: "yes_no", currency: null, choices: [] };
const operators: OperatorKind[] = [
  { key: "is", types: ["text", "choice", "number", "money", "date"], operands: "one" },
  { key: "in", types: ["text", "choice"], operands: "list" },
  { key: "between", types: ["money", "date"], operands: "two" },
  { key: "within_next", types: ["date"], operands: "period" },
  { key: "blank", types: ["text", "money", "date", "yes_no"], operands: "none" },
  { key: "yes", types: ["yes_no"], operands: "none" },
];
const named = (key: string) => operators.find((row) => row.key === key) as OperatorKind;

describe("the tree of the criteria", () => {
  it("is a group at its root, so that a condition can stand beside another", () => {
    expect(asGroup(is("a"))).toEqual(group("all", is("a")));
    expect(asGroup(group("any", is("a")))).toEqual(group("any", is("a")));
  });

  it("is not changed by an edit", () => {
    const root = group("all", is("a"), group("any", is("b"), is("c")));
    const before = JSON.stringify(root);
    replaceAt(root, [1, 0], is("x"));
    addAt(root, [1], is("y"));
    expect(JSON.stringify(root)).toBe(before);
  });

  it("is edited at any depth", () => {
    const root = group("all", is("a"), group("any", is("b"), { kind: "not", child: group("all", is("c")) }));
    expect(nodeAt(replaceAt(root, [1, 0], is("x")), [1, 0])).toEqual(is("x"));
    expect(nodeAt(addAt(root, [1, 1], is("d")), [1, 1, 1])).toEqual(is("d"));
    expect(nodeAt(addAt(root, [1, 1], is("d")), [1, 1])?.kind).toBe("not");
    expect(addAt(root, [], is("z")).children).toHaveLength(3);
  });

  it("loses a group with its last condition, and means everyone when nothing is left", () => {
    const root = group("any", group("any", is("b")));
    expect(replaceAt(root, [0, 0], null)).toEqual(group("all"));
    expect(replaceAt(group("any", is("a"), is("b")), [0], null)).toEqual(group("any", is("b")));
    expect(replaceAt(group("all", { kind: "not", child: group("any", is("a")) }), [0, 0], null)).toEqual(
      group("all"),
    );
  });

  it("takes no harm from a path that leads nowhere", () => {
    const root = group("all", is("a"));
    expect(replaceAt(root, [7], is("x"))).toEqual(root);
    expect(addAt(root, [0], is("x"))).toEqual(root);
    expect(nodeAt(root, [0, 3])).toBeUndefined();
  });
});

describe("a condition", () => {
  it("begins with an operator and a value that fit its field", () => {
    expect(newCondition(town, operators, TODAY)).toEqual(is(""));
    expect(newCondition(pledge, operators, TODAY).values).toEqual([
      { kind: "money", amount: "50", currency: "EUR" },
    ]);
    expect(newCondition(renews, operators, TODAY).values).toEqual([{ kind: "date", day: TODAY }]);
    expect(newCondition(volunteer, operators, TODAY)).toMatchObject({ operator: "yes", values: [] });
  });

  it("keeps its values with another operator where they still fit", () => {
    const one = is("Skarn");
    expect(withOperator(one, named("in"), town, TODAY).values).toEqual([{ kind: "text", text: "Skarn" }]);
    expect(withOperator(one, named("blank"), town, TODAY).values).toEqual([]);
    const day: Condition = { ...one, field: "renews_on", values: [{ kind: "date", day: "2026-01-01" }] };
    expect(withOperator(day, named("between"), renews, TODAY).values).toHaveLength(2);
    const within = withOperator(day, named("within_next"), renews, TODAY);
    expect(within.values).toEqual([{ kind: "period", count: 30, unit: "days" }]);
    expect(withOperator(within, named("is"), renews, TODAY).values).toEqual([{ kind: "date", day: TODAY }]);
  });

  it("has a first value for every type", () => {
    expect(firstLiteral({ ...town, choices: ["Friend"] }, "one", TODAY)).toEqual({
      kind: "text",
      text: "Friend",
    });
    expect(firstLiteral({ ...town, type: "number" }, "one", TODAY)).toEqual({ kind: "number", number: "1" });
  });
});

const bookings: FieldKind = { key: "walk_bookings", type: "list", currency: null, choices: [] };
const names: NameLists = {
  topics: ["Field walks"],
  tags: [],
  campaigns: ["Autumn"],
  files: ["people.csv"],
  audiences: ["Walkers"],
};

describe("a row about more than a field", () => {
  it.each([
    ["field town", is("")],
    [
      "field walk_bookings",
      {
        kind: "condition",
        field: "walk_bookings",
        operator: "more",
        values: [{ kind: "number", number: "0" }],
        counted: true,
      },
    ],
    ["subscribed", { kind: "subscribed", topic: "Field walks", since: null, as_of: null }],
    ["tagged", { kind: "tagged", tag: "" }],
    ["by_sql", { kind: "by_sql", sql: "SELECT contact_id FROM contacts WHERE TRUE" }],
    ["in_audience", { kind: "in_audience", audience: "Walkers" }],
    ["imported", { kind: "imported", file: "people.csv" }],
    ["field gone", undefined],
  ])("begins for %s with something that can be said", (subject, leaf) => {
    const made = newLeaf(subject, [town, bookings], operators, names, TODAY);
    expect(made).toEqual(leaf);
    if (made && subject !== "history") expect(subjectOf(made)).toBe(subject);
  });

  it("keeps a list's condition between any and every, and begins one otherwise", () => {
    const counted = newLeaf("field walk_bookings", [bookings], operators, names, TODAY) as Condition;
    const any = withWay(counted, "any", [town], operators, TODAY) as Items;
    expect(any).toEqual({ kind: "items", field: "walk_bookings", quantifier: "any", child: is("") });
    const said = { ...any, child: is("Skarn") };
    const every = withWay(said, "every", [town], operators, TODAY) as Items;
    expect(every.child).toEqual(is("Skarn"));
    expect(
      ["any", "every", "count", "blank"].map((way) =>
        wayOf(withWay(every, way, [town], operators, TODAY) as Items),
      ),
    ).toEqual(["any", "every", "count", "blank"]);
  });

  it("is a leaf of the tree, edited and removed like any other", () => {
    const leaf: Node = { kind: "tagged", tag: "a" };
    const root = group("all", is("a"), { kind: "not", child: leaf });
    expect(isLeaf(leaf) && !isLeaf(root)).toBe(true);
    expect(replaceAt(root, [1], { kind: "tagged", tag: "b" }).children[1]).toEqual({
      kind: "tagged",
      tag: "b",
    });
    expect(replaceAt(root, [1], null)).toEqual(group("all", is("a")));
  });
});

describe("a day", () => {
  it.each(["day", "today", "after", "before", "now"] as const)("given as %s is read as that", (way) => {
    const given = withDayWay({ kind: "date", day: "2026-05-31" }, way, TODAY);
    expect(dayWayOf(given)).toBe(way);
  });

  it("keeps its distance from one side of today to the other", () => {
    const after: Literal = { kind: "today", count: 2, unit: "weeks" };
    expect(withDayWay(after, "before", TODAY)).toEqual({ kind: "today", count: -2, unit: "weeks" });
  });
});

describe("an option that is taken", () => {
  it.each([
    ["to", { start: 0, end: 2 }, "town", "town ", 5],
    ["count", { start: 0, end: 5 }, "count(", "count(", 6],
    ["(to)", { start: 1, end: 3 }, "town", "(town)", 5],
    ["to is", { start: 0, end: 2 }, "town", "town is", 5],
  ])("in “%s” leaves the caret where one goes on", (text, stretch, option, after, at) => {
    expect(withOption(text, stretch, option)).toEqual({ text: after, at });
  });
});
