/** What always holds in a sheet: each block has an id of its own, and what begins for some people also ends. */
import { Extension } from "@tiptap/core";
import type { Node as SheetNode } from "@tiptap/pm/model";
import { type EditorState, Plugin, type Transaction } from "@tiptap/pm/state";
import { Decoration, DecorationSet } from "@tiptap/pm/view";
import { someId } from "../../../core/message";
import { kindOfNode, piecesOf, type Role, readInlay, unpaired } from "../../../core/writing";
import classes from "./chips.module.css";
import { leaveHolder, leaveLine, leaveList, linkTyped, moveBlock, run } from "./commands";

/** Said of a change that comes from outside the editor: it is taken as it is. */
export const OUTSIDE = "outside";

const fromOutside = (all: readonly Transaction[]) =>
  all.every((one) => !one.docChanged || one.getMeta(OUTSIDE));

/** Blocks that were split or doubled get an id of their own; an empty paragraph where nothing is yet has none. */
function ids(all: readonly Transaction[], state: EditorState): Transaction | null {
  if (fromOutside(all)) return null;
  const taken = new Set<string>();
  let tr: Transaction | null = null;
  state.doc.descendants((node, at, parent) => {
    if (!kindOfNode(node.type.name)) return !node.isTextblock;
    const whole = node.attrs.block as { id: string } | null | undefined;
    const id = String(whole?.id ?? node.attrs.id ?? "");
    const nothing = node.type.name === "paragraph" && node.childCount === 0 && parent?.childCount === 1;
    if (taken.has(id) || (!id && !(nothing && parent !== state.doc))) {
      const fresh = someId();
      tr ??= state.tr;
      tr.setNodeMarkup(
        at,
        undefined,
        whole ? { ...node.attrs, block: { ...whole, id: fresh } } : { ...node.attrs, id: fresh },
        node.marks,
      );
    } else if (id) taken.add(id);
    return !node.isTextblock;
  });
  return tr;
}

interface Marker {
  role: Role;
  at: number;
}

const DIVIDES = new Set<Role>(["if", "elif", "else", "each", "end"]);

function markersOf(block: SheetNode, from: number): Marker[] {
  const found: Marker[] = [];
  block.forEach((node, offset) => {
    if (node.type.name !== "inlay") return;
    const { role } = readInlay(String(node.attrs.source));
    if (DIVIDES.has(role)) found.push({ role, at: from + 1 + offset });
  });
  return found;
}

function wordsIn(doc: SheetNode): Map<SheetNode, number> {
  const found = new Map<SheetNode, number>();
  doc.descendants((node, at) => {
    if (node.isTextblock) found.set(node, at);
    return !node.isTextblock;
  });
  return found;
}

/** Whatever was written or put in as the text of an inlay becomes its chip when it is closed. */
function chips(all: readonly Transaction[], old: EditorState, state: EditorState): Transaction | null {
  if (fromOutside(all)) return null;
  const { inlay } = state.schema.nodes;
  const before = wordsIn(old.doc);
  let tr: Transaction | null = null;
  for (const [block, from] of [...wordsIn(state.doc)].reverse()) {
    if (before.has(block) || !inlay) continue;
    const found: { from: number; to: number; text: string }[] = [];
    block.forEach((node, offset) => {
      let at = from + 1 + offset;
      for (const piece of node.isText ? piecesOf(node.text ?? "") : []) {
        if (piece.inlay) found.push({ from: at, to: at + piece.text.length, text: piece.text });
        at += piece.text.length;
      }
    });
    for (const one of found.reverse()) {
      tr ??= state.tr;
      const marks = state.doc.resolve(one.from + 1).marks();
      tr.replaceWith(one.from, one.to, inlay.create({ source: one.text }, null, marks));
    }
  }
  return tr;
}

/** A beginning that was put in gets its end; what lost its partner goes with it. */
function pairs(all: readonly Transaction[], old: EditorState, state: EditorState): Transaction | null {
  if (fromOutside(all)) return null;
  const before = wordsIn(old.doc);
  const count = (blocks: Map<SheetNode, number>) =>
    [...blocks].reduce((sum, [block, at]) => sum + markersOf(block, at).length, 0);
  const after = wordsIn(state.doc);
  let grew: boolean | undefined;
  let tr: Transaction | null = null;
  for (const [block, at] of [...after].reverse()) {
    if (before.has(block)) continue;
    const markers = markersOf(block, at);
    const lone = unpaired(markers.map((one) => one.role)).flatMap((index) => markers[index] ?? []);
    if (lone.length === 0) continue;
    grew ??= count(after) > count(before);
    const open = grew ? lone.filter((one) => one.role === "if" || one.role === "each") : [];
    tr ??= state.tr;
    const end = state.schema.nodes.inlay;
    for (const _ of open) if (end) tr.insert(at + 1 + block.content.size, end.create({ source: "@{end}" }));
    for (const one of [...lone].reverse()) if (!open.includes(one)) tr.delete(one.at, one.at + 1);
  }
  return tr;
}

/** Is a position between a beginning and its end? */
export function withinSome(state: EditorState): boolean {
  const { $from } = state.selection;
  if (!$from.parent.inlineContent) return false;
  const before = markersOf($from.parent, $from.before()).filter((one) => one.at < $from.pos);
  return unpaired(before.map((one) => one.role)).length > 0;
}

/** The stretches of words that are for some people only. */
function somewhere(doc: SheetNode): DecorationSet {
  const found: Decoration[] = [];
  for (const [block, from] of wordsIn(doc)) {
    const open: number[] = [];
    for (const { role, at } of markersOf(block, from)) {
      if (role === "if" || role === "each") open.push(at);
      else if (role === "end") {
        const begin = open.pop();
        if (begin !== undefined) found.push(Decoration.inline(begin, at + 1, { class: classes.some ?? "" }));
      }
    }
  }
  return DecorationSet.create(doc, found);
}

interface Options {
  /** Are inlays shown as text? */
  asText: () => boolean;
}

export const Rules = Extension.create<Options>({
  name: "rules",
  priority: 2000,
  addOptions: () => ({ asText: () => false }),
  addProseMirrorPlugins() {
    return [
      new Plugin({ appendTransaction: (all, _, state) => ids(all, state) }),
      new Plugin({
        appendTransaction: (all, old, state) => (this.options.asText() ? null : chips(all, old, state)),
      }),
      new Plugin({ appendTransaction: (all, old, state) => pairs(all, old, state) }),
      new Plugin<DecorationSet>({
        state: {
          init: (_, state) => somewhere(state.doc),
          apply: (tr, was) => (tr.docChanged ? somewhere(tr.doc) : was),
        },
        props: {
          decorations(state) {
            return this.getState(state);
          },
        },
      }),
    ];
  },
  addKeyboardShortcuts() {
    return {
      // An address that was just typed is a link once something else follows.
      Space: ({ editor }) => run(editor, linkTyped) && false,
      Enter: ({ editor }) => {
        run(editor, linkTyped);
        if (withinSome(editor.state)) return editor.commands.insertContent({ type: "break" });
        return [leaveList, leaveLine, leaveHolder].some((command) => run(editor, command));
      },
      "Alt-ArrowUp": ({ editor }) => run(editor, moveBlock(-1)),
      "Alt-ArrowDown": ({ editor }) => run(editor, moveBlock(1)),
    };
  },
});
