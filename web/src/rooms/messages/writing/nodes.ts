/** The nodes and marks of the editor's sheet: one for each kind of block, as core/writing/kinds reads and makes them. */
import { type Extensions, Mark, mergeAttributes, Node } from "@tiptap/core";
import Bold from "@tiptap/extension-bold";
import Italic from "@tiptap/extension-italic";
import type { LabelOf } from "../../../core/writing";
import { Inlay } from "./chips";
import { Link } from "./link";

const keep = (names: Record<string, unknown>) => () =>
  Object.fromEntries(
    Object.entries(names).map(([name, value]) => [name, { default: value, rendered: false }]),
  );

export const Doc = Node.create({ name: "doc", topNode: true, content: "block+" });
export const Text = Node.create({ name: "text", group: "inline" });

/** A line end within a block; whoever pastes or reads text gets a line end. */
export const Break = Node.create({
  name: "break",
  group: "inline",
  inline: true,
  selectable: false,
  linebreakReplacement: true,
  parseHTML: () => [{ tag: "br" }],
  renderHTML: () => ["br"],
  renderText: () => "\n",
  addKeyboardShortcuts() {
    const put = () => this.editor.commands.insertContent({ type: "break" });
    return { "Shift-Enter": put, "Mod-Enter": put };
  },
});

export const Paragraph = Node.create({
  name: "paragraph",
  group: "block",
  content: "inline*",
  priority: 1000,
  addAttributes: keep({ id: "", align: "start" }),
  parseHTML: () => [{ tag: "p" }],
  renderHTML: ({ node, HTMLAttributes }) => [
    "p",
    mergeAttributes(HTMLAttributes, { "data-align": node.attrs.align }),
    0,
  ],
});

export const Heading = Node.create({
  name: "heading",
  group: "block",
  content: "inline*",
  defining: true,
  addAttributes: keep({ id: "", level: 1 }),
  parseHTML: () =>
    [1, 2, 3, 4, 5, 6].map((level) => ({ tag: `h${level}`, attrs: { level: Math.min(level, 3) } })),
  renderHTML: ({ node, HTMLAttributes }) => [`h${node.attrs.level}`, HTMLAttributes, 0],
});

export const List = Node.create({
  name: "list",
  group: "block",
  content: "point+",
  addAttributes: keep({ id: "", ordered: false }),
  parseHTML: () => [
    { tag: "ul", attrs: { ordered: false } },
    { tag: "ol", attrs: { ordered: true } },
  ],
  renderHTML: ({ node, HTMLAttributes }) => [node.attrs.ordered ? "ol" : "ul", HTMLAttributes, 0],
});

export const Point = Node.create({
  name: "point",
  content: "inline*",
  defining: true,
  parseHTML: () => [{ tag: "li" }],
  renderHTML: ({ HTMLAttributes }) => ["li", HTMLAttributes, 0],
});

/** A block that holds a line of words without marks. */
function lineBlock(name: string, attrs: Record<string, unknown>) {
  return Node.create({
    name,
    group: "block",
    content: "(text|inlay)*",
    marks: "",
    defining: true,
    isolating: true,
    addAttributes: keep({ id: "", ...attrs }),
    parseHTML: () => [{ tag: `div[data-block="${name}"]` }],
    renderHTML: ({ HTMLAttributes }) => ["div", mergeAttributes(HTMLAttributes, { "data-block": name }), 0],
  });
}

/** A block that is set as a whole. */
function wholeBlock(name: string) {
  return Node.create({
    name,
    group: "block",
    atom: true,
    selectable: true,
    addAttributes: keep({ block: null }),
    parseHTML: () => [{ tag: `div[data-block="${name}"]` }],
    renderHTML: ({ HTMLAttributes }) => ["div", mergeAttributes(HTMLAttributes, { "data-block": name })],
  });
}

/** A block, or a part of one, that holds others. */
function nest(name: string, content: string, attrs: Record<string, unknown>, group?: string) {
  return Node.create({
    name,
    ...(group ? { group } : {}),
    content,
    defining: true,
    isolating: true,
    addAttributes: keep(attrs),
    parseHTML: () => [{ tag: `div[data-block="${name}"]` }],
    renderHTML: ({ HTMLAttributes }) => ["div", mergeAttributes(HTMLAttributes, { "data-block": name }), 0],
  });
}

const OVER = { variable: "", listed: "", order: "" };

export const Button = lineBlock("button", { url: "https://" });
export const Buttons = lineBlock("buttons", { url: "https://", ...OVER });
export const Picture = wholeBlock("picture");
export const Table = wholeBlock("table");
export const Html = wholeBlock("html");
export const Shared = wholeBlock("shared");
export const Divider = wholeBlock("divider");
export const Space = wholeBlock("space");
/** What only a later version of the application knows. */
export const Kept = wholeBlock("kept");
export const Columns = nest("columns", "column{2,3}", { id: "" }, "block");
export const Column = nest("column", "block+", {});
export const Only = nest("only", "arm+ otherwise?", { id: "" }, "block");
export const Arm = nest("arm", "block+", { criteria: "" });
export const Each = nest("each", "record otherwise?", { id: "", ...OVER }, "block");
export const Recorded = nest("record", "block+", {});
export const Otherwise = nest("otherwise", "block+", {});

export const Colour = Mark.create({
  name: "colour",
  addAttributes: () => ({ colour: { default: "accent", rendered: false } }),
  parseHTML: () => [
    { tag: "span[data-colour]", getAttrs: (at) => ({ colour: (at as HTMLElement).dataset.colour }) },
  ],
  renderHTML: ({ mark, HTMLAttributes }) => [
    "span",
    mergeAttributes(HTMLAttributes, { "data-colour": mark.attrs.colour }),
    0,
  ],
});

/** What a sheet can hold. `views` are those of its nodes that are drawn by React, instead of the bare ones. */
export function sheetExtensions(
  labelOf: LabelOf,
  views: Record<string, (node: Node) => Node> = {},
): Extensions {
  const nodes = [
    Paragraph,
    Heading,
    List,
    Point,
    Button,
    Buttons,
    Picture,
    Table,
    Html,
    Shared,
    Divider,
    Space,
    Kept,
    Columns,
    Column,
    Only,
    Arm,
    Each,
    Recorded,
    Otherwise,
  ];
  return [
    Doc,
    Text,
    Break,
    Inlay.configure({ labelOf }),
    ...nodes.map((node) => views[node.name]?.(node) ?? node),
    Bold,
    Italic,
    Colour,
    Link,
  ];
}

/** What a line can hold: words and inlays. */
export function lineExtensions(labelOf: LabelOf): Extensions {
  return [
    Node.create({ name: "doc", topNode: true, content: "line" }),
    Node.create({
      name: "line",
      content: "(text|inlay)*",
      parseHTML: () => [{ tag: "p" }],
      renderHTML: ({ HTMLAttributes }) => ["p", HTMLAttributes, 0],
    }),
    Text,
    Inlay.configure({ labelOf }),
  ];
}
