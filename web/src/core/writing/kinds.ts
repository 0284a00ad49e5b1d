/** Every kind of block: what it is called, how a new one begins, and how the editor holds it.
 *
 * A new kind is one row here, its look in the editor (rooms/messages/writing), and its file on the server.
 */
import type { Block, BlockOf } from "../content";
import { textOf } from "../passages";
import { piecesOf } from "./inlays";
import {
  childrenOf,
  inlineOf,
  isNothing,
  lineOf,
  lineOfNode,
  NOTHING_YET,
  type Sheet,
  type SheetJson,
  wordsOfNode,
} from "./nodes";

export interface Kind<Of extends Block> {
  words: string;
  /** What it is for, in the list of what can be added; "" for what is made in another way. */
  about: string;
  fresh: (id: string) => Of;
  /** The name of its node in the editor. */
  node: string;
  sheet: (block: Of, inner: (block: Block) => SheetJson) => SheetJson;
  block: (node: Sheet, inner: (node: Sheet) => Block) => Of;
  /** What it says, as a line in a comparison. */
  say: (block: Of) => string;
}

const some = (blocks: readonly Block[], inner: (block: Block) => SheetJson) =>
  blocks.length ? blocks.map(inner) : [NOTHING_YET];

function inside(node: Sheet, inner: (node: Sheet) => Block): Block[] {
  const blocks = childrenOf(node).map(inner);
  return isNothing(blocks) ? [] : blocks;
}

const idOf = (node: Sheet) => String(node.attrs.id ?? "");
const named = (node: Sheet, name: string) => childrenOf(node).filter((one) => one.type.name === name);
const asText = (value: unknown) => String(value ?? "");

/** The node of a block that is not written in but set: the whole of it is one attribute. */
function whole<Of extends Block>(node: string): Pick<Kind<Of>, "node" | "sheet" | "block"> {
  return {
    node,
    sheet: (block) => ({ type: node, attrs: { block } }),
    block: (one) => one.attrs.block as Of,
  };
}

const over = (block: { variable: string; listed: string; order: string }) => ({
  variable: block.variable,
  listed: block.listed,
  order: block.order,
});

const overOf = (node: Sheet) => ({
  variable: asText(node.attrs.variable),
  listed: asText(node.attrs.listed),
  order: asText(node.attrs.order),
});

export const KINDS: { [Name in Block["kind"]]: Kind<BlockOf<Name>> } = {
  paragraph: {
    words: "Paragraph",
    about: "Running text",
    fresh: (id) => ({ id, kind: "paragraph", text: [], align: "start" }),
    node: "paragraph",
    sheet: ({ id, align, text }) => ({ type: "paragraph", attrs: { id, align }, content: inlineOf(text) }),
    block: (node) => ({
      id: idOf(node),
      kind: "paragraph",
      text: wordsOfNode(node),
      align: node.attrs.align === "centre" ? "centre" : "start",
    }),
    say: (block) => textOf(block.text),
  },
  heading: {
    words: "Heading",
    about: "A line that stands out",
    fresh: (id) => ({ id, kind: "heading", text: [], level: 1 }),
    node: "heading",
    sheet: ({ id, level, text }) => ({ type: "heading", attrs: { id, level }, content: inlineOf(text) }),
    block: (node) => ({
      id: idOf(node),
      kind: "heading",
      text: wordsOfNode(node),
      level: Number(node.attrs.level) as 1 | 2 | 3,
    }),
    say: (block) => textOf(block.text),
  },
  list: {
    words: "List",
    about: "Points with dots or numbers",
    fresh: (id) => ({ id, kind: "list", items: [[]], ordered: false }),
    node: "list",
    sheet: ({ id, ordered, items }) => ({
      type: "list",
      attrs: { id, ordered },
      content: (items.length ? items : [[]]).map((item) => ({ type: "point", content: inlineOf(item) })),
    }),
    block: (node) => ({
      id: idOf(node),
      kind: "list",
      items: childrenOf(node).map(wordsOfNode),
      ordered: node.attrs.ordered === true,
    }),
    say: (block) => block.items.map(textOf).join(" · "),
  },
  button: {
    words: "Button",
    about: "A link that one cannot miss",
    fresh: (id) => ({ id, kind: "button", label: "", url: "https://" }),
    node: "button",
    sheet: ({ id, url, label }) => ({ type: "button", attrs: { id, url }, content: lineOf(label) }),
    block: (node) => ({
      id: idOf(node),
      kind: "button",
      label: lineOfNode(node),
      url: asText(node.attrs.url),
    }),
    say: (block) => `${block.label} (${block.url})`,
  },
  buttons: {
    words: "Buttons over a list",
    about: "One button for each of a person's records",
    fresh: (id) => ({ id, kind: "buttons", variable: "", listed: "", order: "", label: "", url: "https://" }),
    node: "buttons",
    sheet: (block) => ({
      type: "buttons",
      attrs: { id: block.id, url: block.url, ...over(block) },
      content: lineOf(block.label),
    }),
    block: (node) => ({
      id: idOf(node),
      kind: "buttons",
      ...overOf(node),
      label: lineOfNode(node),
      url: asText(node.attrs.url),
    }),
    say: (block) => `${block.listed}: ${block.label} (${block.url})`,
  },
  picture: {
    words: "Picture",
    about: "From an address on the web",
    fresh: (id) => ({
      id,
      kind: "picture",
      address: "https://",
      alt: "",
      ornament: false,
      width: 544,
      align: "start",
      link: "",
      embedded: false,
    }),
    ...whole("picture"),
    say: (block) => `${block.alt} (${block.address})`,
  },
  columns: {
    words: "Columns",
    about: "Two beside each other; below each other on a telephone",
    fresh: (id) => ({ id, kind: "columns", columns: [[], []] }),
    node: "columns",
    sheet: ({ id, columns }, inner) => ({
      type: "columns",
      attrs: { id },
      content: columns.map((blocks) => ({ type: "column", content: some(blocks, inner) })),
    }),
    block: (node, inner) => ({
      id: idOf(node),
      kind: "columns",
      columns: childrenOf(node).map((column) => inside(column, inner)),
    }),
    say: (block) => block.columns.map(sayAll).join(" | "),
  },
  table: {
    words: "Table over a list",
    about: "A row for each of a person's records, with totals",
    fresh: (id) => ({ id, kind: "table", variable: "", listed: "", order: "", columns: [], otherwise: [] }),
    ...whole("table"),
    say: (block) => `${block.listed}: ${block.columns.map((one) => one.title).join(" | ")}`,
  },
  only: {
    words: "Only for some",
    about: "",
    fresh: (id) => ({ id, kind: "only", arms: [{ criteria: "", blocks: [] }], otherwise: [] }),
    node: "only",
    sheet: ({ id, arms, otherwise }, inner) => ({
      type: "only",
      attrs: { id },
      content: [
        ...arms.map((arm) => ({
          type: "arm",
          attrs: { criteria: arm.criteria },
          content: some(arm.blocks, inner),
        })),
        ...rest(otherwise, inner),
      ],
    }),
    block: (node, inner) => ({
      id: idOf(node),
      kind: "only",
      arms: named(node, "arm").map((arm) => ({
        criteria: asText(arm.attrs.criteria),
        blocks: inside(arm, inner),
      })),
      otherwise: named(node, "otherwise").flatMap((one) => inside(one, inner)),
    }),
    say: (block) =>
      [...block.arms.map((arm) => `${arm.criteria}: ${sayAll(arm.blocks)}`), sayAll(block.otherwise)]
        .filter(Boolean)
        .join(" / "),
  },
  each: {
    words: "For each record",
    about: "",
    fresh: (id) => ({ id, kind: "each", variable: "", listed: "", order: "", blocks: [], otherwise: [] }),
    node: "each",
    sheet: (block, inner) => ({
      type: "each",
      attrs: { id: block.id, ...over(block) },
      content: [{ type: "record", content: some(block.blocks, inner) }, ...rest(block.otherwise, inner)],
    }),
    block: (node, inner) => ({
      id: idOf(node),
      kind: "each",
      ...overOf(node),
      blocks: named(node, "record").flatMap((one) => inside(one, inner)),
      otherwise: named(node, "otherwise").flatMap((one) => inside(one, inner)),
    }),
    say: (block) => `${block.listed}: ${sayAll(block.blocks)}`,
  },
  html: {
    words: "HTML",
    about: "For what no other block says",
    fresh: (id) => ({ id, kind: "html", source: "" }),
    ...whole("html"),
    say: (block) => withoutTags(block.source),
  },
  shared: {
    words: "Shared block",
    about: "",
    fresh: (id) => ({ id, kind: "shared", message_id: 1, name: "", blocks: [] }),
    ...whole("shared"),
    say: (block) => `${block.name}: ${sayAll(block.blocks)}`,
  },
  divider: {
    words: "Line",
    about: "Thin, from side to side",
    fresh: (id) => ({ id, kind: "divider" }),
    ...whole("divider"),
    say: () => "",
  },
  space: {
    words: "Space",
    about: "Room between blocks",
    fresh: (id) => ({ id, kind: "space", height: 24 }),
    ...whole("space"),
    say: (block) => `${block.height} px`,
  },
};

const rest = (blocks: readonly Block[], inner: (block: Block) => SheetJson): SheetJson[] =>
  blocks.length ? [{ type: "otherwise", content: blocks.map(inner) }] : [];

/** The words between tags; one of them may go on behind an inlay in it. */
const withoutTags = (source: string) =>
  piecesOf(source)
    .map((piece) => (piece.inlay ? piece.text : piece.text.replace(/^[^<]*?">|<[^>]*>?/g, " ")))
    .join("")
    .replace(/\s+/g, " ")
    .trim();

const sayAll = (blocks: readonly Block[]): string => blocks.map(sayBlock).join(" ");

const BY_NAME = new Map<string, Kind<Block>>(
  Object.entries(KINDS).map(([name, kind]) => [name, kind as unknown as Kind<Block>]),
);
const BY_NODE = new Map([...BY_NAME.values()].map((kind) => [kind.node, kind]));

/** The row of a block; undefined for a kind of a later version, which is kept as it is. */
export const kindOf = (block: Block): Kind<Block> | undefined => BY_NAME.get(block.kind);

/** The row whose blocks are nodes of this name. */
export const kindOfNode = (name: string): Kind<Block> | undefined => BY_NODE.get(name);

/** What a block says. */
export const sayBlock = (block: Block): string => kindOf(block)?.say(block) ?? "";
