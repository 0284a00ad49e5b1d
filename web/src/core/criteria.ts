import { readAmount, readNumber } from "./numbers";
import type { components } from "./schema";

type Schemas = components["schemas"];

// The tree of the criteria and its edits. A tree is never changed; an edit gives a new one.
export type Condition = Schemas["Condition"];
export type Literal = Condition["values"][number];
export type Period = Schemas["PeriodLiteral"];
export type Unit = Period["unit"];
export type Items = Schemas["Items"];
export type History = Schemas["History"];
export type Event = History["event"];
export type Subscribed = Schemas["Subscribed"];
export type Tagged = Schemas["Tagged"];
export type Imported = Schemas["Imported"];
export type InAudience = Schemas["InAudience"];
/** Whom a SELECT over the read-only views gives. */
export type ChosenBySql = Schemas["ChosenBySql"];

/** One row: everything that has no rows of its own below it but a list's condition. */
export type Leaf = Condition | Items | History | Subscribed | Tagged | Imported | InAudience | ChosenBySql;
export type Group = Schemas["All"] | Schemas["AnyOf"];
export type Node = Group["children"][number];

/** Where a node stands: the index of a child at each level. */
export type Path = readonly number[];

export interface FieldKind {
  key: string;
  type: string;
  currency: string | null;
  choices: string[];
}

/** What criteria can name. */
export interface NameLists {
  topics: string[];
  tags: string[];
  campaigns: string[];
  files: string[];
  audiences: string[];
}

export interface OperatorKind {
  key: string;
  types: string[];
  operands: string;
}

/** Is it a row of its own? */
export function isLeaf(node: Node): node is Leaf {
  return node.kind !== "all" && node.kind !== "any" && node.kind !== "not";
}

/** The root as a group, so that rows can be added beside a lone condition. */
export function asGroup(node: Node): Group {
  return node.kind === "all" || node.kind === "any" ? node : { kind: "all", children: [node] };
}

/** The tree with the node at `path` replaced; null removes it. Groups that become empty go, up to the root. */
export function replaceAt(root: Group, path: Path, next: Node | null): Group {
  const [index, ...rest] = path;
  if (index === undefined) return next ? asGroup(next) : { kind: "all", children: [] };
  const child = root.children[index];
  if (!child) return root;
  let changed: Node | null = next;
  if (rest.length > 0) {
    const inner = child.kind === "not" ? child.child : child;
    const group = replaceAt(asGroup(inner), rest, next);
    const kept = group.children.length === 0 ? null : group;
    changed = kept && child.kind === "not" ? { kind: "not", child: kept } : kept;
  }
  const children = root.children.flatMap((one, at) => (at === index ? (changed ? [changed] : []) : [one]));
  // "any of nobody" cannot be said; nothing left means everyone.
  return { kind: children.length === 0 ? "all" : root.kind, children };
}

/** The tree with a node added at the end of the group at `path`. */
export function addAt(root: Group, path: Path, node: Node): Group {
  if (path.length === 0) return { ...root, children: [...root.children, node] };
  const group = groupAt(root, path);
  if (!group) return root;
  const grown: Group = { ...group, children: [...group.children, node] };
  const at = nodeAt(root, path);
  return replaceAt(root, path, at?.kind === "not" ? { kind: "not", child: grown } : grown);
}

/** The node at a path. */
export function nodeAt(root: Node, path: Path): Node | undefined {
  const [index, ...rest] = path;
  if (index === undefined) return root;
  const inner = root.kind === "not" ? root.child : root;
  const child = inner.kind === "all" || inner.kind === "any" ? inner.children[index] : undefined;
  return child && nodeAt(child, rest);
}

function groupAt(root: Node, path: Path): Group | undefined {
  const node = nodeAt(root, path);
  const inner = node?.kind === "not" ? node.child : node;
  return inner && (inner.kind === "all" || inner.kind === "any") ? inner : undefined;
}

/** A value to begin with, that fits a field. */
export function firstLiteral(field: FieldKind, operands: string, today: string): Literal {
  if (operands === "period") return { kind: "period", count: 30, unit: "days" };
  switch (field.type) {
    case "number":
      return { kind: "number", number: "1" };
    case "money":
      return { kind: "money", amount: "50", currency: field.currency ?? "EUR" };
    case "date":
    case "date_time":
      return { kind: "date", day: today };
    default:
      return { kind: "text", text: field.choices[0] ?? "" };
  }
}

/** The condition with another operator; values are kept where they still fit. */
export function withOperator(
  condition: Condition,
  operator: OperatorKind,
  field: FieldKind,
  today: string,
): Condition {
  const wanted =
    { none: 0, one: 1, period: 1, two: 2, list: Math.max(1, condition.values.length) }[operator.operands] ??
    0;
  const fits = condition.values.filter(
    (value) => (value.kind === "period") === (operator.operands === "period"),
  );
  const values = Array.from(
    { length: wanted },
    (_, index) => fits[index] ?? fits[0] ?? firstLiteral(field, operator.operands, today),
  );
  return { ...condition, operator: operator.key, values };
}

/** A condition to begin with on a field: its first operator, and a value that fits. */
export function newCondition(field: FieldKind, operators: OperatorKind[], today: string): Condition {
  const operator =
    operators.find((row) => row.types.includes(field.type) && row.key !== "yes") ?? operators[0];
  const chosen =
    field.type === "yes_no" ? (operators.find((row) => row.key === "yes") ?? operator) : operator;
  const empty: Condition = {
    kind: "condition",
    field: field.key,
    operator: "blank",
    values: [],
    counted: false,
  };
  return chosen ? withOperator(empty, chosen, field, today) : empty;
}

const FIRST_SELECT = "SELECT contact_id FROM contacts WHERE TRUE";

/** The picker's value for a row: a field, or another subject. */
export function subjectOf(leaf: Leaf): string {
  return leaf.kind === "condition" || leaf.kind === "items" ? `field ${leaf.field}` : leaf.kind;
}

/** A row to begin with about a subject of the picker. */
export function newLeaf(
  subject: string,
  fields: FieldKind[],
  operators: OperatorKind[],
  names: NameLists,
  today: string,
): Leaf | undefined {
  if (subject.startsWith("field ")) {
    const field = fields.find((one) => one.key === subject.slice(6));
    if (field?.type === "list") {
      return { kind: "condition", field: field.key, operator: "more", values: [number("0")], counted: true };
    }
    return field && newCondition(field, operators, today);
  }
  switch (subject) {
    case "history":
      return { kind: "history", event: "opened", campaign: null, within: period(60), never: false };
    case "subscribed":
      return { kind: "subscribed", topic: names.topics[0] ?? "", since: null, as_of: null };
    case "tagged":
      return { kind: "tagged", tag: names.tags[0] ?? "" };
    case "in_audience":
      return { kind: "in_audience", audience: names.audiences[0] ?? "" };
    case "imported":
      return { kind: "imported", file: names.files[0] ?? "" };
    case "by_sql":
      return { kind: "by_sql", sql: FIRST_SELECT };
    default:
      return undefined;
  }
}

const number = (text: string): Literal => ({ kind: "number", number: text });
const period = (count: number): Period => ({ kind: "period", count, unit: "days" });

/** How a list is asked about: any, every, count, or one of the operators that see whether it is blank. */
export function wayOf(leaf: Condition | Items): string {
  if (leaf.kind === "items") return leaf.quantifier;
  return leaf.counted ? "count" : leaf.operator;
}

/** The row about a list, asked in another way; a condition on its records is kept between any and every. */
export function withWay(
  leaf: Condition | Items,
  way: string,
  parts: FieldKind[],
  operators: OperatorKind[],
  today: string,
): Leaf {
  const { field } = leaf;
  if (way === "any" || way === "every") {
    const first = parts[0];
    const child =
      leaf.kind === "items" ? leaf.child : first ? newCondition(first, operators, today) : undefined;
    return child ? { kind: "items", field, quantifier: way, child } : leaf;
  }
  if (way === "count") {
    return { kind: "condition", field, operator: "more", values: [number("0")], counted: true };
  }
  return { kind: "condition", field, operator: way, values: [], counted: false };
}

/** A typed number or amount as a literal; what is none is kept as the text that it is. */
export function literalFrom(typed: string, currency: string | null): Literal {
  if (currency) {
    const amount = readAmount(typed, currency);
    return amount === undefined ? { kind: "text", text: typed } : { kind: "money", amount, currency };
  }
  const number = readNumber(typed);
  return number === undefined ? { kind: "text", text: typed } : { kind: "number", number };
}

/** The text of a literal in a box. */
export function textOf(value: Literal): string {
  switch (value.kind) {
    case "text":
      return value.text;
    case "number":
      return value.number;
    case "money":
      return value.amount;
    default:
      return "";
  }
}

/** A day as a box for days has it; an unfinished one is blank. */
export function dayFrom(day: string): Literal {
  return day ? { kind: "date", day } : { kind: "text", text: "" };
}

/** How a day is given: on a calendar, or by its distance from today. */
export type DayWay = "day" | "today" | "after" | "before" | "now";

export function dayWayOf(value: Literal): DayWay {
  if (value.kind === "now") return "now";
  if (value.kind !== "today") return "day";
  return value.count === 0 ? "today" : value.count > 0 ? "after" : "before";
}

/** A day given in another way; a distance keeps its length. */
export function withDayWay(value: Literal, way: DayWay, today: string): Literal {
  const old = value.kind === "today" && value.count !== 0 ? value : { count: 30, unit: "days" as Unit };
  const far = Math.abs(old.count);
  switch (way) {
    case "day":
      return { kind: "date", day: value.kind === "date" ? value.day : today };
    case "now":
      return { kind: "now" };
    case "today":
      return { kind: "today", count: 0, unit: "days" };
    case "after":
      return { kind: "today", count: far, unit: old.unit };
    case "before":
      return { kind: "today", count: -far, unit: old.unit };
  }
}

/** The text with an option put in for a stretch, and where the caret stands then. */
export function withOption(
  text: string,
  stretch: { start: number; end: number },
  option: string,
): { text: string; at: number } {
  const behind = text.slice(stretch.end);
  // After an opening bracket one goes on at once; after anything else comes a blank.
  const put =
    option.endsWith("(") || behind.startsWith(" ") || behind.startsWith(")") ? option : `${option} `;
  const at = stretch.start + put.length + (behind.startsWith(" ") && !option.endsWith("(") ? 1 : 0);
  return { text: text.slice(0, stretch.start) + put + behind, at };
}
