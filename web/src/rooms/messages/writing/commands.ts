/** What can be done with blocks and inlays. Each command first answers whether it applies, so that it drives its button too. */
import type { Editor } from "@tiptap/core";
import { Fragment, type Node as SheetNode } from "@tiptap/pm/model";
import { type EditorState, NodeSelection, TextSelection, type Transaction } from "@tiptap/pm/state";
import type { Block, BlockOf } from "../../../core/content";
import { someId } from "../../../core/message";
import { addressesIn, blockOf, KINDS, sheetOfBlock } from "../../../core/writing";
import { blockAt, blockHere, blocksHere, type Place } from "./places";

type Dispatch = ((tr: Transaction) => void) | undefined;
export type Command = (state: EditorState, dispatch?: Dispatch) => boolean;

export function run(editor: Editor, command: Command): boolean {
  const done = command(editor.state, editor.view.dispatch);
  if (done) editor.view.focus();
  return done;
}

export const nodeOf = (state: EditorState, block: Block): SheetNode =>
  state.schema.nodeFromJSON(sheetOfBlock(block));

/** The caret into a block, or the block chosen where there is nothing to write in. */
function into(tr: Transaction, from: number): Transaction {
  const node = tr.doc.nodeAt(from);
  if (node?.isAtom) return tr.setSelection(NodeSelection.create(tr.doc, from)).scrollIntoView();
  return tr.setSelection(TextSelection.near(tr.doc.resolve(from + 1))).scrollIntoView();
}

/** Put a block behind the one that the caret is in; in the place of an empty paragraph. */
export function addBlock(block: Block, at?: number): Command {
  return (state, dispatch) => {
    const here = at === undefined ? blockHere(state) : undefined;
    const node = nodeOf(state, block);
    if (!dispatch) return true;
    const empty = here?.node.type.name === "paragraph" && here.node.content.size === 0;
    const from = at ?? (empty ? here.from : (here?.to ?? state.doc.content.size));
    const tr = state.tr.replaceWith(from, empty && here ? here.to : from, node);
    dispatch(into(tr, from));
    return true;
  };
}

/** Make the block here another kind of words. */
export function turnInto(kind: "paragraph" | "heading", attrs: Record<string, unknown> = {}): Command {
  return (state, dispatch) => {
    const here = blockHere(state);
    if (!here || !["paragraph", "heading"].includes(here.node.type.name)) return false;
    const type = state.schema.nodes[kind];
    if (type) dispatch?.(state.tr.setNodeMarkup(here.from, type, { id: here.node.attrs.id, ...attrs }));
    return true;
  };
}

/** Make paragraphs a list, or a list paragraphs. */
export function toggleList(ordered: boolean): Command {
  return (state, dispatch) => {
    const { list, point, paragraph } = state.schema.nodes;
    const range = blocksHere(state);
    if (!range || !list || !point || !paragraph) return false;
    const nodes = nodesIn(state, range);
    if (!nodes.every((one) => ["paragraph", "heading", "list"].includes(one.type.name))) return false;
    const back = nodes.every((one) => one.type === list && one.attrs.ordered === ordered);
    const words = nodes.flatMap((one) => (one.type === list ? children(one) : [one]));
    const made = back
      ? words.map((one) => paragraph.create({ id: someId() }, one.content))
      : [
          list.create(
            { id: nodes[0]?.attrs.id, ordered },
            words.map((one) => point.create(null, one.content)),
          ),
        ];
    if (dispatch) {
      const tr = state.tr.replaceWith(range.from, range.to, made);
      dispatch(into(tr, range.from));
    }
    return true;
  };
}

const children = (node: SheetNode) => Array.from({ length: node.childCount }, (_, at) => node.child(at));

function nodesIn(state: EditorState, range: { from: number; to: number }): SheetNode[] {
  const nodes: SheetNode[] = [];
  for (let at = range.from; at < range.to; ) {
    const node = state.doc.nodeAt(at);
    if (!node) break;
    nodes.push(node);
    at += node.nodeSize;
  }
  return nodes;
}

/** Move a block past its neighbour. */
export function moveBlock(step: 1 | -1, from?: number): Command {
  return (state, dispatch) => {
    const here = from === undefined ? blockHere(state) : blockAt(state.doc, from);
    const beside = here?.parent.maybeChild(here.index + step);
    if (!here || !beside) return false;
    if (dispatch) {
      const to = step < 0 ? here.from - beside.nodeSize : here.from + beside.nodeSize;
      const caret = state.selection.from - here.from;
      const tr = state.tr.delete(here.from, here.to).insert(to, here.node);
      if (caret >= 0 && caret < here.node.nodeSize) {
        const chosen = state.selection instanceof NodeSelection && caret === 0;
        tr.setSelection(
          chosen
            ? NodeSelection.create(tr.doc, to)
            : TextSelection.near(tr.doc.resolve(to + Math.max(1, caret))),
        );
      }
      dispatch(tr.scrollIntoView());
    }
    return true;
  };
}

/** Take a block out; where it was the only one, there is an empty paragraph instead. */
export function removeBlock(from?: number): Command {
  return (state, dispatch) => {
    const here = from === undefined ? blockHere(state) : blockAt(state.doc, from);
    const { paragraph } = state.schema.nodes;
    if (!here || !paragraph) return false;
    if (dispatch) {
      const alone = here.parent.childCount === 1;
      const tr = alone
        ? state.tr.replaceWith(here.from, here.to, paragraph.create())
        : state.tr.delete(here.from, here.to);
      dispatch(
        tr.setSelection(TextSelection.near(tr.doc.resolve(Math.min(here.from, tr.doc.content.size)), -1)),
      );
    }
    return true;
  };
}

/** Put a second one behind a block. */
export function doubleBlock(from?: number): Command {
  return (state, dispatch) => {
    const here = from === undefined ? blockHere(state) : blockAt(state.doc, from);
    if (!here) return false;
    if (dispatch) dispatch(into(state.tr.insert(here.to, here.node), here.to));
    return true;
  };
}

/** Is something within running words selected, in one block? */
export function wordsSelected(state: EditorState): boolean {
  const { $from, $to, empty } = state.selection;
  return (
    !empty && $from.sameParent($to) && $from.parent.inlineContent && state.selection instanceof TextSelection
  );
}

/** Let the selected words be for some people only: between two chips, the first of which is chosen to be set. */
export function someWordsOnly(criteria: string): Command {
  return (state, dispatch) => {
    const { inlay } = state.schema.nodes;
    if (!wordsSelected(state) || !inlay) return false;
    if (dispatch) {
      const { from, to } = state.selection;
      const tr = state.tr
        .insert(to, inlay.create({ source: "@{end}" }))
        .insert(from, inlay.create({ source: `@{if ${criteria}}` }));
      dispatch(tr.setSelection(NodeSelection.create(tr.doc, from)));
    }
    return true;
  };
}

/** Put the selected blocks into one that is for some people only. */
export function blocksOnly(criteria: string): Command {
  return wrapped((state, blocks) => {
    const { only, arm } = state.schema.nodes;
    return only?.createChecked({ id: someId() }, arm?.createChecked({ criteria }, blocks));
  });
}

/** Put the selected blocks into one that repeats them for each record of a list. */
export function blocksForEach(variable: string, listed: string): Command {
  return wrapped((state, blocks) => {
    const { each, record } = state.schema.nodes;
    return each?.createChecked({ id: someId(), variable, listed }, record?.createChecked(null, blocks));
  });
}

function wrapped(make: (state: EditorState, blocks: Fragment) => SheetNode | undefined): Command {
  return (state, dispatch) => {
    const range = blocksHere(state);
    const node = range && make(state, Fragment.from(nodesIn(state, range)));
    if (!range || !node) return false;
    if (dispatch) dispatch(into(state.tr.replaceWith(range.from, range.to, node), range.from));
    return true;
  };
}

/** Take the blocks out of what was for some only, or repeated, or beside each other. */
export function unwrap(from: number): Command {
  return (state, dispatch) => {
    const here = blockAt(state.doc, from);
    if (!here || !["only", "each", "columns"].includes(here.node.type.name)) return false;
    const blocks = children(here.node).flatMap(children);
    if (dispatch) dispatch(into(state.tr.replaceWith(here.from, here.to, blocks), here.from));
    return true;
  };
}

/** Put the words of a shared block in its place: they are the message's own from now on. */
export function openShared(from: number): Command {
  return (state, dispatch) => {
    const here = blockAt(state.doc, from);
    if (here?.node.type.name !== "shared") return false;
    const { blocks } = here.node.attrs.block as BlockOf<"shared">;
    const own = blocks.length ? blocks.map((one) => nodeOf(state, one)) : [];
    if (dispatch) {
      if (own.length === 0) return removeBlock(from)(state, dispatch);
      dispatch(into(state.tr.replaceWith(here.from, here.to, own), here.from));
    }
    return true;
  };
}

/** The blocks that a position or the selection around it takes in, as they are in the message. */
export function blocksAround(state: EditorState, at: number): { from: number; to: number; blocks: Block[] } {
  const here = blockAt(state.doc, at);
  const chosen = blocksHere(state);
  const range =
    chosen && here && chosen.from <= here.from && here.to <= chosen.to
      ? chosen
      : { from: here?.from ?? 0, to: here?.to ?? 0 };
  return { ...range, blocks: nodesIn(state, range).map(blockOf) };
}

/** Put one block where others stand, as long as these are still what they were. */
export function replaceBlocks(range: { from: number; to: number; blocks: Block[] }, block: Block): Command {
  return (state, dispatch) => {
    if (range.to > state.doc.content.size) return false;
    const there = nodesIn(state, range).map(blockOf);
    if (there.length !== range.blocks.length || there.some((one, at) => one !== range.blocks[at]))
      return false;
    if (dispatch)
      dispatch(into(state.tr.replaceWith(range.from, range.to, nodeOf(state, block)), range.from));
    return true;
  };
}

/** Another arm of what is for some only: for others, or for everybody else. */
export function addArm(from: number, criteria: string | undefined): Command {
  return (state, dispatch) => {
    const here = blockAt(state.doc, from);
    const { arm, otherwise, paragraph } = state.schema.nodes;
    if (!here || !arm || !otherwise || !paragraph) return false;
    const last = here.node.lastChild;
    const has = last?.type === otherwise;
    if (criteria === undefined && has) return false;
    if (dispatch) {
      const made = (criteria === undefined ? otherwise : arm).create(
        criteria === undefined ? null : { criteria },
        paragraph.create(),
      );
      const at = here.to - 1 - (has && criteria !== undefined ? (last?.nodeSize ?? 0) : 0);
      const tr = state.tr.insert(at, made);
      dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(at + 2))).scrollIntoView());
    }
    return true;
  };
}

/** The address before the caret becomes a link. */
export const linkTyped: Command = (state, dispatch) => {
  const { $from, empty } = state.selection;
  const { link } = state.schema.marks;
  if (!empty || !link || !$from.parent.inlineContent || !$from.parent.type.allowsMarkType(link)) return false;
  // A chip is one sign here, and ends an address.
  const before = $from.parent.textBetween(0, $from.parentOffset, undefined, " ");
  const last = addressesIn(before).at(-1);
  if (!last || before.slice(last.at + last.address.length).match(/\s/)) return false;
  const from = $from.start() + last.at;
  const to = from + last.address.length;
  if (state.doc.rangeHasMark(from, to, link)) return false;
  if (dispatch)
    dispatch(state.tr.addMark(from, to, link.create({ href: last.address })).removeStoredMark(link));
  return true;
};

/** From an empty last paragraph in what holds blocks to behind it. */
export const leaveHolder: Command = (state, dispatch) => {
  const here = blockHere(state);
  if (here?.node.type.name !== "paragraph" || here.node.content.size > 0) return false;
  if (here.parent.type.name === "doc" || here.parent.childCount < 2) return false;
  if (here.index !== here.parent.childCount - 1) return false;
  const outer = holderOf(state, here);
  if (outer === undefined) return false;
  if (dispatch) {
    const tr = state.tr.delete(here.from, here.to);
    const at = tr.mapping.map(outer);
    tr.insert(at, here.node);
    dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(at + 1))).scrollIntoView());
  }
  return true;
};

/** Behind the block that holds the holder of a place. */
function holderOf(state: EditorState, place: Place): number | undefined {
  const $at = state.doc.resolve(place.from);
  return $at.depth >= 2 ? $at.after($at.depth - 1) : undefined;
}

/** From an empty last point to a paragraph behind the list. */
export const leaveList: Command = (state, dispatch) => {
  const { $from, empty } = state.selection;
  const { paragraph } = state.schema.nodes;
  if (!empty || $from.parent.type.name !== "point" || $from.parent.content.size > 0 || !paragraph)
    return false;
  const list = $from.node(-1);
  if ($from.index(-1) !== list.childCount - 1) return false;
  if (dispatch) {
    const begin = $from.before(-1);
    const fresh = paragraph.create({ id: someId() });
    const tr =
      list.childCount === 1
        ? state.tr.replaceWith(begin, $from.after(-1), fresh)
        : state.tr.insert($from.after(-1), fresh).delete($from.before(), $from.after());
    const at = list.childCount === 1 ? begin : tr.mapping.map($from.after(-1), -1);
    dispatch(tr.setSelection(TextSelection.near(tr.doc.resolve(at + 1))).scrollIntoView());
  }
  return true;
};

/** From a button to a paragraph behind it. */
export const leaveLine: Command = (state, dispatch) => {
  const here = blockHere(state);
  if (!here || !["button", "buttons"].includes(here.node.type.name)) return false;
  return addBlock(KINDS.paragraph.fresh(someId()), here.to)(state, dispatch);
};
