/** What is wrong with the words, at the place in the sheet that it speaks of. */
import { type Editor, Extension } from "@tiptap/core";
import type { Node as SheetNode } from "@tiptap/pm/model";
import { Plugin, PluginKey } from "@tiptap/pm/state";
import { Decoration, DecorationSet } from "@tiptap/pm/view";
import { createContext, useContext } from "react";
import type { Schemas } from "../../../api";
import { placeOfPart, positionOf } from "./places";
import classes from "./SheetEditor.module.css";

type Problem = Schemas["PartProblemView"];

const key = new PluginKey<DecorationSet>("problems");

/** Tell the editor what is wrong. */
export function showProblems(editor: Editor, problems: readonly Problem[]): void {
  editor.view.dispatch(editor.state.tr.setMeta(key, problems));
}

export const ProblemMarks = Extension.create({
  name: "problemMarks",
  addProseMirrorPlugins() {
    return [
      new Plugin<DecorationSet>({
        key,
        state: {
          init: () => DecorationSet.empty,
          apply: (tr, was) => {
            const told = tr.getMeta(key) as readonly Problem[] | undefined;
            return told ? marksOf(tr.doc, told) : was.map(tr.mapping, tr.doc);
          },
        },
        props: {
          decorations(state) {
            return this.getState(state);
          },
        },
      }),
    ];
  },
});

function marksOf(doc: SheetNode, problems: readonly Problem[]): DecorationSet {
  return DecorationSet.create(
    doc,
    problems.flatMap((one) => {
      const place = placeOfPart(doc, one.part);
      if (!place) return [];
      const to = place.from + place.node.nodeSize;
      const block = Decoration.node(place.from, to, { class: classes.faulty ?? "" });
      const words = wordsOfProblem(place, one);
      return words
        ? [block, Decoration.inline(words.from, words.to, { class: classes.fault ?? "" })]
        : [block];
    }),
  );
}

/** A part of a message, and signs of its text. */
export interface Pointed {
  part: string;
  problem: { start: number; end: number };
}

/** The very words that a problem speaks of, where they stand in running text. */
export function wordsOfProblem(
  place: { from: number; node: SheetNode; rest: string[] },
  { problem }: Pointed,
): { from: number; to: number } | undefined {
  let { node, from } = place;
  if (node.type.name === "list" && place.rest[0] === "items") {
    const index = Number(place.rest[1]);
    const item = node.maybeChild(index);
    if (!item) return undefined;
    from += 1;
    for (let at = 0; at < index; at += 1) from += node.child(at).nodeSize;
    node = item;
  } else if (place.rest[0] !== "text" && place.rest[0] !== "label") return undefined;
  if (!node.isTextblock || place.rest.includes("link")) return undefined;
  const begin = positionOf(node, from, problem.start);
  return { from: begin, to: Math.max(begin + 1, positionOf(node, from, problem.end)) };
}

const Problems = createContext<readonly Problem[]>([]);
export const ProblemsProvider = Problems.Provider;

/** The problems of a block's part, or of the whole block. */
export function useProblemsAt(editor: Editor, getPos: () => number | undefined, part?: string): Problem[] {
  const problems = useContext(Problems);
  const at = getPos();
  return problems.filter((one) => {
    const place = placeOfPart(editor.state.doc, one.part);
    return place?.from === at && (part === undefined || place?.rest[0] === part);
  });
}
