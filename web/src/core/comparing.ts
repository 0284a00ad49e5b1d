/** Two versions of a message, compared block by block and word by word. */
import { diffArrays } from "diff";
import { sayAttachment } from "./attachments";
import type { Block, Content } from "./content";
import { same } from "./drafts";
import { kindOf, piecesOf, sayBlock } from "./writing";

/** A stretch of words that only the older or only the newer version has, or both. */
export interface Stretch {
  text: string;
  in: "older" | "newer" | "both";
}

/** One line of a comparison: the subject, or a block, that differs in words or in how it is set. */
export interface Compared {
  what: string;
  stretches: Stretch[];
  /** It says the same, and is set otherwise: its level, its width, its marks. */
  onlySet: boolean;
}

/** What differs, in the order of the newer version; what was taken out stands where it was. */
export function compared(older: Content, newer: Content): Compared[] {
  const lines = (["subject", "preheader", "language"] as const).flatMap((key) =>
    difference(key[0]?.toUpperCase() + key.slice(1), older[key], newer[key], older[key] !== newer[key]),
  );
  const needs = difference(
    "Required fields",
    older.needed.join(", "),
    newer.needed.join(", "),
    older.needed.join() !== newer.needed.join(),
  );
  const said = (content: Content) => content.attachments.map(sayAttachment).join(", ");
  const differ = !same(older.attachments, newer.attachments);
  const attached = difference("Attachments", said(older), said(newer), differ);
  return [...lines, ...blocksCompared(older.blocks, newer.blocks), ...attached, ...needs];
}

function blocksCompared(older: readonly Block[], newer: readonly Block[]): Compared[] {
  const before = new Map(older.map((block) => [block.id, block]));
  // Those of the newer version that are still to come.
  const ahead = new Set(newer.map((block) => block.id));
  const there = new Set(ahead);
  const out: Compared[] = [];
  let place = 0;
  const gone = () => {
    for (; place < older.length; place += 1) {
      const block = older[place];
      if (block && ahead.has(block.id)) break;
      if (block && !there.has(block.id)) out.push(...difference(nameOf(block), sayBlock(block), "", true));
    }
  };
  for (const block of newer) {
    gone();
    const was = before.get(block.id);
    ahead.delete(block.id);
    const alike = was !== undefined && same(was, block);
    out.push(...difference(nameOf(block), was ? sayBlock(was) : "", sayBlock(block), !alike));
  }
  gone();
  return out;
}

/** Words, and the signs between them; an inlay is one word. */
const wordsOf = (text: string) =>
  piecesOf(text).flatMap((one) =>
    one.inlay ? [one.text] : (one.text.match(/[\p{L}\p{N}]+|\s+|[^\p{L}\p{N}\s]/gu) ?? []),
  );

const nameOf = (block: Block) => kindOf(block)?.words ?? block.kind;

function difference(what: string, older: string, newer: string, differs: boolean): Compared[] {
  if (!differs) return [];
  const stretches = diffArrays(wordsOf(older), wordsOf(newer)).map(
    (one): Stretch => ({
      text: one.value.join(""),
      in: one.added ? "newer" : one.removed ? "older" : "both",
    }),
  );
  return [{ what, stretches, onlySet: older === newer }];
}
