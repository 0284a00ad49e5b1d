/** The tree of the criteria and its edits. A tree is never changed; an edit gives a new one. */
export type Literal =
  | { kind: "text"; text: string }
  | { kind: "number"; number: string }
  | { kind: "money"; amount: string; currency: string }
  | { kind: "date"; day: string }
  | { kind: "period"; count: number; unit: "days" | "weeks" | "months" };

export interface Condition {
  kind: "condition";
  field: string;
  operator: string;
  values: Literal[];
}

export interface Group {
  kind: "all" | "any";
  children: Node[];
}

export interface Not {
  kind: "not";
  child: Node;
}

export type Node = Condition | Group | Not;

/** Where a node stands: the index of a child at each level. */
export type Path = readonly number[];

export interface FieldKind {
  key: string;
  type: string;
  currency: string | null;
  choices: string[];
}

export interface OperatorKind {
  key: string;
  types: string[];
  operands: string;
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
  const empty: Condition = { kind: "condition", field: field.key, operator: "blank", values: [] };
  return chosen ? withOperator(empty, chosen, field, today) : empty;
}
