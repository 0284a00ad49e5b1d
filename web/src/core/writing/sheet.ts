/** The message's blocks as the sheet that the editor holds, and back: what goes in comes out. */
import type { Block } from "../content";
import { kindOf, kindOfNode } from "./kinds";
import { childrenOf, NOTHING_YET, type Sheet, type SheetJson } from "./nodes";

/** The sheet of blocks; an empty message has one empty paragraph to write in. */
export function sheetOf(blocks: readonly Block[]): SheetJson {
  return { type: "doc", content: blocks.length ? blocks.map(sheetOfBlock) : [NOTHING_YET] };
}

const sheets = new WeakMap<Block, SheetJson>();
const blocks = new WeakMap<Sheet, Block>();

/** The node of one block; that of the same block is the same. */
export function sheetOfBlock(block: Block): SheetJson {
  const known = sheets.get(block);
  if (known) return known;
  const made = kindOf(block)?.sheet(block, sheetOfBlock) ?? { type: "kept", attrs: { block } };
  sheets.set(block, made);
  return made;
}

/** The blocks of a sheet. Nodes that did not change give the blocks that they gave before. */
export function blocksOf(sheet: Sheet): Block[] {
  return childrenOf(sheet).map(blockOf);
}

/** The block of one node. */
export function blockOf(node: Sheet): Block {
  const known = blocks.get(node);
  if (known) return known;
  const made = kindOfNode(node.type.name)?.block(node, blockOf) ?? (node.attrs.block as Block);
  blocks.set(node, made);
  return made;
}
