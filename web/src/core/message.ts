/** The message document and its edits; nothing is changed in place. */

import { sayAttachment } from "./attachments";
import type { Block, Content } from "./content";
import { member, mergeOrder, type Part, type Parts } from "./drafts";
import { someId } from "./ids";
import { type Passage, wordsOf } from "./passages";
import { KINDS, kindOf, sayBlock } from "./writing";

export type { Block, Content };
export { someId };

/** A message as it is edited and saved. */
export interface MessageDoc {
  name: string;
  content: Content;
}

export const EMPTY: Content = {
  version: 8,
  language: "",
  subject: "",
  preheader: "",
  blocks: [{ id: "b1", kind: "paragraph", text: [], align: "start" }],
  needed: [],
  others: [],
  attachments: [],
};

/** Has nobody written anything yet? */
export function isBlank({ subject, preheader, blocks }: Content): boolean {
  const empty = (block: Block) => block.kind === "paragraph" && block.text.length === 0;
  return !subject && !preheader && blocks.length < 2 && blocks.every(empty);
}

/** Content as it was stored, also in its first form, whose texts had no marks; every block with an id of its own. */
export function readContent(stored: unknown): Content {
  const content = { ...EMPTY, ...(stored as Partial<Content>), version: 8 as const };
  const others = content.others.map((one) => ({ ...one, blocks: identified(one.blocks) }));
  const attachments = content.attachments.map((one, at) => ({
    ...one,
    id: one.id || `a${at + 1}`,
    language: one.language ?? null,
  }));
  return { ...content, blocks: identified(content.blocks), others, attachments };
}

function identified(blocks: Block[]): Block[] {
  const taken = new Set<string>();
  return blocks.map((block, at) => withIds(newest(block), `b${at + 1}`, taken));
}

function newest(block: Block): Block {
  if (block.kind !== "paragraph" && block.kind !== "heading") return block;
  const { text } = block as { text: Passage[] | string };
  return {
    ...KINDS[block.kind].fresh(block.id),
    ...block,
    text: typeof text === "string" ? wordsOf(text) : text,
  } as Block;
}

/** The block and those in it, each with an id that no other has. */
function withIds(block: Block, first: string, taken: Set<string>): Block {
  const id = block.id && !taken.has(block.id) ? block.id : freeId(taken, first);
  taken.add(id);
  const all = (blocks: Block[], name: string) =>
    blocks.map((one, at) => withIds(one, `${id}-${name}${at + 1}`, taken));
  const own = { ...block, id };
  switch (own.kind) {
    case "columns":
      return { ...own, columns: own.columns.map((one, at) => all(one, `c${at + 1}-`)) };
    case "only":
      return {
        ...own,
        arms: own.arms.map((arm, at) => ({ ...arm, blocks: all(arm.blocks, `a${at + 1}-`) })),
        otherwise: all(own.otherwise, "o"),
      };
    case "shared":
      return { ...own, blocks: all(own.blocks, "s") };
    case "each":
      return { ...own, blocks: all(own.blocks, "e"), otherwise: all(own.otherwise, "o") };
    default:
      return own;
  }
}

/** The longest id that the server takes. */
const LONGEST_ID = 40;

function freeId(taken: { has: (id: string) => boolean }, first: string): string {
  if (first.length > LONGEST_ID) return someId();
  let id = first;
  for (let more = 2; taken.has(id); more += 1) id = `${first}-${more}`;
  return id;
}

/** How two versions of a message are merged: its lines, its languages, its needs, and each block as a whole. */
export const MESSAGE_PARTS: Parts<MessageDoc> = {
  of: (docs) => [
    member<MessageDoc, "name">("name", "Name of the message"),
    inContent("language", "Language"),
    inContent("subject", "Subject"),
    inContent("preheader", "Preheader"),
    needs(),
    attached(),
    ...[...new Set(docs.flatMap(blockIds))].map(blockPart),
    ...[...new Set(docs.flatMap(languagesOf))].map(languagePart),
  ],
  frame: (base, mine, theirs) => {
    const order = mergeOrder(blockIds(base), blockIds(mine), blockIds(theirs));
    const blocks = order.flatMap((id) => blocksOf(mine, id)[0] ?? blocksOf(theirs, id)[0] ?? []);
    const languages = mergeOrder(languagesOf(base), languagesOf(mine), languagesOf(theirs));
    const others = languages.flatMap((one) => otherIn(mine, one)[0] ?? otherIn(theirs, one)[0] ?? []);
    return { ...mine, content: { ...mine.content, blocks, others } };
  },
};

const blockIds = (doc: MessageDoc) => doc.content.blocks.map((block) => block.id);
const blocksOf = (doc: MessageDoc, id: string) => doc.content.blocks.filter((block) => block.id === id);

const languagesOf = (doc: MessageDoc) => doc.content.others.map((one) => one.language);
const otherIn = (doc: MessageDoc, language: string) =>
  doc.content.others.filter((one) => one.language === language);

/** The words in another language, as a whole; there or not. */
function languagePart(language: string): Part<MessageDoc> {
  return {
    key: `language ${language}`,
    words: `Words in ${language}`,
    get: (doc) => otherIn(doc, language),
    set: (doc, value) => ({
      ...doc,
      content: {
        ...doc.content,
        others: doc.content.others.flatMap((one) =>
          one.language === language ? (value as Content["others"]) : [one],
        ),
      },
    }),
    say: (doc) =>
      otherIn(doc, language)
        .map((one) => [one.subject, ...one.blocks.map(sayBlock)].join(" · "))
        .join(),
  };
}

function inContent(key: "language" | "subject" | "preheader", words: string): Part<MessageDoc> {
  return {
    key,
    words,
    get: (doc) => doc.content[key],
    set: (doc, value) => ({ ...doc, content: { ...doc.content, [key]: value } }),
    say: (doc) => doc.content[key],
    ...(key === "language"
      ? {}
      : { both: (mine, theirs) => `${mine.content[key]} ${theirs.content[key]}`.trim() }),
  };
}

function needs(): Part<MessageDoc> {
  return {
    key: "needed",
    words: "Required fields",
    get: (doc) => [...doc.content.needed].sort(),
    set: (doc, value) => ({ ...doc, content: { ...doc.content, needed: value as string[] } }),
    say: (doc) => doc.content.needed.join(", "),
    both: (mine, theirs) => [...new Set([...mine.content.needed, ...theirs.content.needed])].sort(),
  };
}

/** What is attached, as a whole: both lists are one where both are kept. */
function attached(): Part<MessageDoc> {
  return {
    key: "attachments",
    words: "Attachments",
    get: (doc) => doc.content.attachments,
    set: (doc, value) => ({
      ...doc,
      content: { ...doc.content, attachments: value as Content["attachments"] },
    }),
    say: (doc) => doc.content.attachments.map(sayAttachment).join(", "),
    both: (mine, theirs) => {
      const ids = new Set(mine.content.attachments.map((one) => one.id));
      return [...mine.content.attachments, ...theirs.content.attachments.filter((one) => !ids.has(one.id))];
    },
  };
}

/** A block is there or it is not: its value is a list of none or one, and of two where both are kept. */
function blockPart(id: string): Part<MessageDoc> {
  return {
    key: `block ${id}`,
    words: "Block",
    get: (doc) => blocksOf(doc, id),
    set: (doc, value) => ({
      ...doc,
      content: {
        ...doc.content,
        blocks: doc.content.blocks.flatMap((block) => (block.id === id ? (value as Block[]) : [block])),
      },
    }),
    say: (doc) =>
      blocksOf(doc, id)
        .map((block) => [kindOf(block)?.words ?? block.kind, sayBlock(block)].filter(Boolean).join(": "))
        .join(),
    both: (mine, theirs) => [
      ...blocksOf(mine, id),
      ...blocksOf(theirs, id).map((block) => ({ ...block, id: `${id}-theirs` })),
    ],
  };
}
