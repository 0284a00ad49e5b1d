/** The message document and its edits; nothing is changed in place. */
import { member, mergeOrder, type Part, type Parts } from "./drafts";
import { type Passage, textOf, withText, wordsOf } from "./passages";
import type { components } from "./schema";

export type Content = components["schemas"]["MessageContent"];
/** `id` tells a block from the others wherever it stands. */
export type Block = Content["blocks"][number];

/** A message as it is edited and saved. */
export interface MessageDoc {
  name: string;
  content: Content;
}

export const EMPTY: Content = {
  version: 2,
  language: "",
  subject: "",
  preheader: "",
  blocks: [{ id: "b1", kind: "paragraph", text: [], align: "start" }],
  needed: [],
};

/** Content as it was stored, also in its first form, whose texts had no marks; every block with an id of its own. */
export function readContent(stored: unknown): Content {
  const content = { ...EMPTY, ...(stored as Partial<Content>), version: 2 as const };
  const taken = new Set<string>();
  const blocks = content.blocks.map((block, at) => {
    const id = block.id && !taken.has(block.id) ? block.id : freeId(taken, `b${at + 1}`);
    taken.add(id);
    return { ...newest(block), id };
  });
  return { ...content, blocks };
}

function newest(block: Block): Block {
  if (block.kind !== "paragraph" && block.kind !== "heading") return block;
  const { text } = block as { text: Passage[] | string };
  return {
    ...newBlock(block.kind, block.id),
    ...block,
    text: typeof text === "string" ? wordsOf(text) : text,
  } as Block;
}

function freeId(taken: { has: (id: string) => boolean }, first: string): string {
  let id = first;
  for (let more = 2; taken.has(id); more += 1) id = `${first}-${more}`;
  return id;
}

/** The kinds that are written in the editor; the others are kept as they are. */
export const WRITTEN = {
  paragraph: "Paragraph",
  heading: "Heading",
  button: "Button",
  divider: "Line",
} as const;

/** A new block of a kind, with an id that tells it from those that are made at the same time elsewhere. */
export function newBlock(kind: keyof typeof WRITTEN, id: string = someId()): Block {
  switch (kind) {
    case "button":
      return { id, kind, label: "", url: "https://" };
    case "divider":
      return { id, kind };
    case "heading":
      return { id, kind, text: [], level: 1 };
    case "paragraph":
      return { id, kind, text: [], align: "start" };
  }
}

function someId(): string {
  return [...crypto.getRandomValues(new Uint8Array(6))]
    .map((one) => one.toString(16).padStart(2, "0"))
    .join("");
}

/** The content with one part changed: subject, preheader, blocks.0.text, blocks.1.url … */
export function withPart(content: Content, part: string, value: string): Content {
  if (part === "subject" || part === "preheader") return { ...content, [part]: value };
  const [, index, key] = part.split(".");
  const blocks = content.blocks.map((block, at) => {
    if (at !== Number(index)) return block;
    const told = key === "text" && "text" in block ? withText(block.text, value) : value;
    return { ...block, [key ?? ""]: told } as Block;
  });
  return { ...content, blocks };
}

/** The text of one part. */
export function partOf(content: Content, part: string): string {
  if (part === "subject" || part === "preheader") return content[part];
  const [, index, key] = part.split(".");
  const block = content.blocks[Number(index)];
  if (block && key === "text" && "text" in block) return textOf(block.text);
  return (block as Record<string, string> | undefined)?.[key ?? ""] ?? "";
}

/** How long a part may be, in characters. */
export function longest(content: Content, part: string): number {
  const [, index, key] = part.split(".");
  if (key === "label") return 500;
  return content.blocks[Number(index)]?.kind === "paragraph" ? 50_000 : 2_000;
}

/** The content with a block moved by `step`, when there is room for it. */
export function moveBlock(content: Content, index: number, step: 1 | -1): Content {
  const to = index + step;
  const block = content.blocks[index];
  if (!block || to < 0 || to >= content.blocks.length) return content;
  const blocks = content.blocks.filter((_, at) => at !== index);
  blocks.splice(to, 0, block);
  return { ...content, blocks };
}

/** What stands for words that are to be typed still. */
export const UNFINISHED = "…";

/** The inlay that a picker inserts for a field: with a place for a fallback where somebody has none. */
export function inlayFor(key: string, type: string, blank: number): string {
  if (type === "yes_no") return `@{if ${key}}${UNFINISHED}@{else}${UNFINISHED}@{end}`;
  return blank > 0 ? `@{${key} else "${UNFINISHED}"}` : `@{${key}}`;
}

/** The stretch that is typed over next after an inlay was put in at `from`: its first unfinished place, or what follows. */
export function toType(inlay: string, from: number): [number, number] {
  const at = inlay.indexOf(UNFINISHED);
  return at < 0 ? [from + inlay.length, from + inlay.length] : [from + at, from + at + UNFINISHED.length];
}

/** What each kind of block is called. */
export const KIND_WORDS: Record<Block["kind"], string> = {
  ...WRITTEN,
  list: "List",
  buttons: "Buttons over a list",
  picture: "Picture",
  columns: "Columns",
  table: "Table over a list",
  only: "Blocks for some people only",
  each: "Blocks for each record of a list",
  space: "Space",
};

/** How two versions of a message are merged: its lines, its languages, its needs, and each block as a whole. */
export const MESSAGE_PARTS: Parts<MessageDoc> = {
  of: (docs) => [
    member<MessageDoc, "name">("name", "Name of the message"),
    inContent("language", "Language"),
    inContent("subject", "Subject"),
    inContent("preheader", "Preheader"),
    needs(),
    ...[...new Set(docs.flatMap(blockIds))].map(blockPart),
  ],
  frame: (base, mine, theirs) => {
    const order = mergeOrder(blockIds(base), blockIds(mine), blockIds(theirs));
    const blocks = order.flatMap((id) => blocksOf(mine, id)[0] ?? blocksOf(theirs, id)[0] ?? []);
    return { ...mine, content: { ...mine.content, blocks } };
  },
};

const blockIds = (doc: MessageDoc) => doc.content.blocks.map((block) => block.id);
const blocksOf = (doc: MessageDoc, id: string) => doc.content.blocks.filter((block) => block.id === id);

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
    say: (doc) => blocksOf(doc, id).map(sayBlock).join(),
    both: (mine, theirs) => [
      ...blocksOf(mine, id),
      ...blocksOf(theirs, id).map((block) => ({ ...block, id: `${id}-theirs` })),
    ],
  };
}

function sayBlock(block: Block): string {
  switch (block.kind) {
    case "button":
      return `${KIND_WORDS.button}: ${block.label} (${block.url})`;
    case "paragraph":
    case "heading":
      return `${KIND_WORDS[block.kind]}: ${textOf(block.text)}`;
    default:
      return KIND_WORDS[block.kind];
  }
}
