/** What stands in an editor, brought to what it is from outside: only what differs is replaced, so that the caret stays. */
import type { Editor } from "@tiptap/core";
import { Fragment, type Schema, type Node as SheetNode, Slice } from "@tiptap/pm/model";
import { inlineOf, linked, piecesOf, type SheetJson } from "../../../core/writing";
import { OUTSIDE } from "./rules";

export function bringTo(editor: Editor, json: SheetJson, asText: boolean): void {
  const { state } = editor;
  const made = state.schema.nodeFromJSON(json);
  const next = asText ? withoutChips(made) : made;
  const start = state.doc.content.findDiffStart(next.content);
  if (start === null) return;
  const end = state.doc.content.findDiffEnd(next.content);
  if (!end) return;
  const overlap = Math.max(0, start - Math.min(end.a, end.b));
  editor.view.dispatch(
    state.tr.replace(start, end.a + overlap, next.slice(start, end.b + overlap)).setMeta(OUTSIDE, true),
  );
}

type Inline = (one: SheetNode, schema: Schema) => SheetNode[];

const asWords: Inline = (one, schema) =>
  one.type.name === "inlay" ? [schema.text(String(one.attrs.source), one.marks)] : [one];

const asChips: Inline = (one, schema) => {
  const pieces = one.isText ? piecesOf(one.text ?? "") : [];
  const { inlay } = schema.nodes;
  if (!inlay || !pieces.some((piece) => piece.inlay)) return [one];
  return pieces.map((piece) =>
    piece.inlay ? inlay.create({ source: piece.text }, null, one.marks) : schema.text(piece.text, one.marks),
  );
};

/** The same with each inlay as its text. */
export const withoutChips = (node: SheetNode) => mapped(node, asWords);

function mapped(node: SheetNode, inline: Inline): SheetNode {
  if (node.isLeaf) return node;
  return node.copy(mappedContent(node.content, inline, node.type.schema));
}

function mappedContent(content: Fragment, inline: Inline, schema: Schema): Fragment {
  const out: SheetNode[] = [];
  content.forEach((one) => {
    if (one.isInline) out.push(...inline(one, schema));
    else out.push(mapped(one, inline));
  });
  return Fragment.fromArray(joinedText(out));
}

/** Fragments hold no two texts with the same marks beside each other. */
function joinedText(nodes: SheetNode[]): SheetNode[] {
  return nodes.reduce<SheetNode[]>((done, one) => {
    const last = done.at(-1);
    if (last?.isText && one.isText && last.sameMarkup(one)) {
      done[done.length - 1] = one.type.schema.text((last.text ?? "") + (one.text ?? ""), one.marks);
    } else done.push(one);
    return done;
  }, []);
}

/** Pasted text: a blank line begins the next paragraph, inlays become chips, addresses links. */
export function pastedText(text: string, schema: Schema, single: boolean): Slice {
  const plain = { bold: false, italic: false, colour: "" as const, link: "" };
  const clean = text.replace(/\r\n?/g, "\n");
  if (single) {
    const line = inlineOf([{ ...plain, text: clean.replace(/\s*\n\s*/g, " ") }]);
    return new Slice(Fragment.fromJSON(schema, line), 0, 0);
  }
  const blocks = clean.split(/\n[ \t]*\n+/).map((block) => ({
    type: "paragraph",
    content: inlineOf(linked(block.replace(/^\n+|\n+$/g, ""))),
  }));
  return new Slice(Fragment.fromJSON(schema, blocks), 1, 1);
}

/** What is pasted with marks has its inlays as chips too. */
export function pastedSlice(slice: Slice, schema: Schema): Slice {
  return new Slice(mappedContent(slice.content, asChips, schema), slice.openStart, slice.openEnd);
}
