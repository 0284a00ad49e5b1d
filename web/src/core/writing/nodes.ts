/** The nodes of the editor's sheet, as far as they are read here, and words as inline nodes. */
import type { Block } from "../content";
import { joined, type Passage, PLAIN } from "../passages";
import { piecesOf } from "./inlays";

/** A node of the editor: what is read of it. */
export interface Sheet {
  readonly type: { readonly name: string };
  readonly attrs: Readonly<Record<string, unknown>>;
  readonly text?: string | undefined;
  readonly marks: readonly {
    readonly type: { readonly name: string };
    readonly attrs: Readonly<Record<string, unknown>>;
  }[];
  readonly childCount: number;
  child(at: number): Sheet;
}

/** A node as plain data, to make one from. */
export interface SheetJson {
  type: string;
  attrs?: Record<string, unknown>;
  content?: SheetJson[];
  text?: string;
  marks?: { type: string; attrs?: Record<string, unknown> }[];
}

export function childrenOf(node: Sheet): Sheet[] {
  return Array.from({ length: node.childCount }, (_, at) => node.child(at));
}

/** Words as inline nodes: text, line ends, and inlays as chips. */
export function inlineOf(words: readonly Passage[]): SheetJson[] {
  return words.flatMap((one) => {
    const marks = marksOf(one);
    const marked = marks.length ? { marks } : {};
    return piecesOf(one.text).flatMap((piece): SheetJson[] =>
      piece.inlay
        ? [{ type: "inlay", attrs: { source: piece.text }, ...marked }]
        : linesOf(piece.text).map((text) =>
            text === "\n" ? { type: "break", ...marked } : { type: "text", text, ...marked },
          ),
    );
  });
}

const linesOf = (text: string) => text.split(/(\n)/).filter(Boolean);

function marksOf(one: Passage): NonNullable<SheetJson["marks"]> {
  return [
    ...(one.link ? [{ type: "link", attrs: { href: one.link } }] : []),
    ...(one.colour ? [{ type: "colour", attrs: { colour: one.colour } }] : []),
    ...(one.bold ? [{ type: "bold" }] : []),
    ...(one.italic ? [{ type: "italic" }] : []),
  ];
}

/** The words of a node that holds inline nodes. */
export function wordsOfNode(node: Sheet): Passage[] {
  return joined(
    childrenOf(node).map((one) => {
      const mark = (name: string) => one.marks.find((each) => each.type.name === name);
      return {
        ...PLAIN,
        text: textOfInline(one),
        bold: !!mark("bold"),
        italic: !!mark("italic"),
        colour: (mark("colour")?.attrs.colour ?? "") as Passage["colour"],
        link: String(mark("link")?.attrs.href ?? ""),
      };
    }),
  );
}

/** What an inline node is in the merge language. */
export function textOfInline(node: Sheet): string {
  if (node.type.name === "inlay") return String(node.attrs.source);
  return node.type.name === "break" ? "\n" : (node.text ?? "");
}

/** One line, such as a button's label, as inline nodes without marks. */
export const lineOf = (text: string): SheetJson[] => inlineOf([{ ...PLAIN, text: text.replace(/\n/g, " ") }]);

export const lineOfNode = (node: Sheet): string => childrenOf(node).map(textOfInline).join("");

/** What blocks within a block need: something to write in, also where nothing stands yet. */
export const NOTHING_YET: SheetJson = { type: "paragraph", attrs: { id: "", align: "start" } };

/** Is it what stands where there is no block yet? */
export function isNothing(blocks: readonly Block[]): boolean {
  const [only] = blocks;
  return blocks.length === 1 && only?.kind === "paragraph" && !only.id && only.text.length === 0;
}
