import type { Editor } from "@tiptap/core";
import { NodeSelection, TextSelection } from "@tiptap/pm/state";
import { useEffect, useRef } from "react";
import type { Caret, LetterPlace } from "../../../ui";
import { partAt, placeOfPart } from "./places";
import { type Pointed, wordsOfProblem } from "./problems";

/** A place in the words, as the lens tells it. */
export interface Wanted {
  place: LetterPlace;
  language: string;
}

/** Goes once to each place that is wanted, when the words of its language are on screen. */
export function Going({
  editor,
  wanted,
  language,
}: {
  editor: Editor;
  wanted: Wanted | undefined;
  language: string;
}) {
  const went = useRef<Wanted>(undefined);
  useEffect(() => {
    if (!wanted || went.current === wanted) return;
    // The main words are shown to whoever reads none of the others: their language has no words of its own here.
    if (language !== "" && language !== wanted.language) return;
    went.current = wanted;
    const { part, start, end } = wanted.place;
    goTo(editor, { part, problem: { start, end } });
  }, [editor, wanted, language]);
  return null;
}

/** Tells where the caret is, when it is elsewhere than it was. */
export function CaretTeller({
  editor,
  onCaret,
}: {
  editor: Editor;
  onCaret: (caret: Caret | undefined) => void;
}) {
  useEffect(() => {
    let told = "";
    const tell = () => {
      const caret = partAt(editor.state.selection.$from);
      const next = caret ? `${caret.part} ${caret.sign}` : "";
      if (next === told) return;
      told = next;
      onCaret(caret);
    };
    editor.on("selectionUpdate", tell);
    return () => {
      editor.off("selectionUpdate", tell);
    };
  }, [editor, onCaret]);
  return null;
}

/** The caret to the very words that a problem speaks of, or the block chosen that has them. */
export function goTo(editor: Editor, problem: Pointed): void {
  const { state } = editor;
  const place = placeOfPart(state.doc, problem.part);
  if (!place) return;
  const words = wordsOfProblem(place, problem);
  const chip = words && state.doc.nodeAt(words.from)?.type.name === "inlay";
  const selection = chip
    ? NodeSelection.create(state.doc, words.from)
    : words
      ? TextSelection.between(state.doc.resolve(words.from), state.doc.resolve(words.to))
      : NodeSelection.isSelectable(place.node)
        ? NodeSelection.create(state.doc, place.from)
        : TextSelection.near(state.doc.resolve(place.from + 1));
  editor.view.dispatch(state.tr.setSelection(selection).scrollIntoView());
  editor.view.focus();
}
