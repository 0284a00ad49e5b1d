/** Where in a sheet something is: blocks, what holds them, and the parts that the server names. */
import type { ResolvedPos, Node as SheetNode } from "@tiptap/pm/model";
import type { EditorState } from "@tiptap/pm/state";

/** Nodes that hold blocks. */
const HOLDERS = new Set(["doc", "column", "arm", "record", "otherwise"]);

export interface Place {
  node: SheetNode;
  /** Before the block. */
  from: number;
  to: number;
  parent: SheetNode;
  /** Its number among its neighbours. */
  index: number;
}

/** The innermost block around a position. */
export function blockAround($at: ResolvedPos): Place | undefined {
  for (let depth = $at.depth; depth > 0; depth -= 1) {
    const parent = $at.node(depth - 1);
    if (HOLDERS.has(parent.type.name)) {
      const from = $at.before(depth);
      const node = $at.node(depth);
      return { node, from, to: from + node.nodeSize, parent, index: $at.index(depth - 1) };
    }
  }
  return undefined;
}

/** The block that the selection is in, or that is selected as a whole. */
export function blockHere(state: EditorState): Place | undefined {
  const { $from, from } = state.selection;
  return blockAt(state.doc, from) ?? blockAround($from);
}

/** The block that begins at a position. */
export function blockAt(doc: SheetNode, from: number): Place | undefined {
  const $from = doc.resolve(from);
  const node = $from.nodeAfter;
  if (!node || !HOLDERS.has($from.parent.type.name)) return undefined;
  return { node, from, to: from + node.nodeSize, parent: $from.parent, index: $from.index() };
}

/** The first and the last block that a selection touches, as neighbours of one holder. */
export function blocksHere(state: EditorState): { from: number; to: number } | undefined {
  const { $from, $to } = state.selection;
  for (let depth = $from.sharedDepth($to.pos); depth >= 0; depth -= 1) {
    if (!HOLDERS.has($from.node(depth).type.name)) continue;
    if ($from.depth === depth) return { from: $from.pos, to: $to.pos };
    return { from: $from.before(depth + 1), to: $to.after(depth + 1) };
  }
  return undefined;
}

/** What is repeated around a position: the name of one record and the list. */
export function repeatedAt($at: ResolvedPos): { variable: string; listed: string } | undefined {
  for (let depth = $at.depth; depth > 0; depth -= 1) {
    const node = $at.node(depth);
    const within = node.type.name === "buttons" || $at.node(depth).type.name === "record";
    const over = node.type.name === "record" ? $at.node(depth - 1) : node;
    if (within) return { variable: String(over.attrs.variable), listed: String(over.attrs.listed) };
  }
  return undefined;
}

/** Where a part of the message stands, such as `blocks.2.arms.0.blocks.1.text`: its block, and the steps within it. */
export function placeOfPart(
  doc: SheetNode,
  part: string,
): { from: number; node: SheetNode; rest: string[] } | undefined {
  const steps = part.split(".");
  if (steps.shift() !== "blocks") return undefined;
  let found = child(doc, 0, Number(steps.shift()));
  while (found) {
    const into = inner(found.node, found.from, steps);
    if (!into) return { ...found, rest: steps };
    steps.splice(0, into.used);
    const next = child(into.node, into.from, Number(steps.shift()));
    if (!next) return { ...found, rest: steps };
    found = next;
  }
  return undefined;
}

/** The part that a position in words stands in, as the server names it, and the sign of its text; undefined elsewhere. */
export function partAt($at: ResolvedPos): { part: string; sign: number } | undefined {
  const { parent } = $at;
  if (!parent.inlineContent) return undefined;
  const steps: (string | number)[] = ["blocks"];
  for (let depth = 0; depth < $at.depth; depth += 1) {
    const holder = $at.node(depth);
    const inside = $at.node(depth + 1);
    const index = $at.index(depth);
    switch (inside.type.name) {
      case "column":
        steps.push("columns", index);
        break;
      case "arm":
        steps.push("arms", index, "blocks");
        break;
      case "record":
        steps.push("blocks");
        break;
      case "otherwise":
        steps.push("otherwise");
        break;
      case "point":
        steps.push("items", index);
        break;
      default:
        if (HOLDERS.has(holder.type.name)) steps.push(index);
    }
  }
  if (parent.type.name !== "point") steps.push(parent.type.spec.marks === "" ? "label" : "text");
  let sign = 0;
  parent.forEach((one, offset) => {
    if (offset < $at.parentOffset)
      sign += Math.min(lengthOf(one), one.isText ? $at.parentOffset - offset : Infinity);
  });
  return { part: steps.join("."), sign };
}

/** The length of an inline node as text of the merge language. */
const lengthOf = (one: SheetNode) =>
  one.isText ? one.nodeSize : one.type.name === "inlay" ? String(one.attrs.source).length : 1;

/** The holder within a block that steps lead into. */
function inner(node: SheetNode, from: number, steps: string[]) {
  const [first, second, third] = steps;
  const at = (index: number, used: number) => {
    const one = child(node, from + 1, index);
    return one ? { node: one.node, from: one.from + 1, used } : undefined;
  };
  switch (`${node.type.name} ${first}`) {
    case "columns columns":
      return at(Number(second), 2);
    case "only arms":
      return third === "blocks" ? at(Number(second), 3) : undefined;
    case "each blocks":
      return at(0, 1);
    case "only otherwise":
    case "each otherwise":
      return second === undefined ? undefined : at(node.childCount - 1, 1);
    default:
      return undefined;
  }
}

function child(node: SheetNode, start: number, index: number) {
  if (!(index >= 0 && index < node.childCount)) return undefined;
  let from = start;
  for (let at = 0; at < index; at += 1) from += node.child(at).nodeSize;
  return { node: node.child(index), from };
}

/** The position of an offset (in UTF-16 units of the merge language's text) within a node of words. */
export function positionOf(node: SheetNode, from: number, offset: number): number {
  let left = offset;
  let at = from + 1;
  for (let index = 0; index < node.childCount; index += 1) {
    const one = node.child(index);
    const length = lengthOf(one);
    if (left < length) return one.isText ? at + left : at;
    left -= length;
    at += one.nodeSize;
  }
  return at;
}
