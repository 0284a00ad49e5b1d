/** The parts that the editor of a whole message and that of one line have in common. */
import type { Editor, Extensions } from "@tiptap/core";
import { useEditor } from "@tiptap/react";
import { useEffect, useLayoutEffect, useRef } from "react";
import { same } from "../../../core/drafts";
import { fieldOptions, foundOptions, type Repeated, type Sheet, type SheetJson } from "../../../core/writing";
import { useWriting } from "./context";
import { fieldSearch, PickerStore } from "./fieldSearch";
import { repeatedAt } from "./places";
import { OUTSIDE, Rules } from "./rules";
import { bringTo, pastedSlice, pastedText } from "./sync";

interface EditorOf<Value> {
  extensions: () => Extensions;
  value: Value;
  toSheet: (value: Value) => SheetJson;
  fromSheet: (sheet: Sheet) => Value;
  onChange: (value: Value) => void;
  /** One line: nothing can be split. */
  single: boolean;
  /** What is repeated around a line. */
  within?: Repeated | undefined;
  attributes: Record<string, string>;
}

/** An editor that shows `value` and tells what becomes of it; with the menu of fields that it opens at an @. */
export function useEditorOf<Value>(of: EditorOf<Value>): { editor: Editor; store: PickerStore } {
  const writing = useWriting();
  const now = useRef({ of, writing });
  now.current = { of, writing };
  const store = useRef<PickerStore>(undefined);
  store.current ??= new PickerStore();
  // What the editor told last, so that its own words are not brought back to it.
  const told = useRef<Value>(undefined);
  const editor = useEditor({
    immediatelyRender: true,
    shouldRerenderOnTransaction: false,
    editable: writing.may,
    extensions: [
      ...of.extensions(),
      Rules.configure({ asText: () => now.current.writing.asText }),
      fieldSearch({
        store: store.current,
        find: (search, state) => {
          const { vocabulary } = now.current.writing;
          const over = repeatedAt(state.selection.$from) ?? now.current.of.within;
          return foundOptions(fieldOptions(vocabulary.fields, vocabulary.provided, over), search);
        },
        asText: () => now.current.writing.asText,
      }),
    ],
    content: of.toSheet(of.value) as never,
    enableContentCheck: false,
    coreExtensionOptions: { clipboardTextSerializer: { blockSeparator: "\n\n" } },
    editorProps: {
      attributes: { ...of.attributes, "aria-readonly": String(!writing.may) },
      clipboardTextParser: (text, _, __, view) => pastedText(text, view.state.schema, of.single),
      transformPasted: (slice, view) =>
        now.current.writing.asText ? slice : pastedSlice(slice, view.state.schema),
    },
    onUpdate: ({ editor: here, transaction }) => {
      // What was brought here from outside is known there.
      if (transaction.getMeta(OUTSIDE)) return;
      const next = now.current.of.fromSheet(here.state.doc);
      told.current = next;
      now.current.of.onChange(next);
    },
    onFocus: ({ editor: here }) => now.current.writing.onActive(here, now.current.of.within),
  });
  const { value } = of;
  const { asText, may } = writing;
  const shown = useRef(asText);
  // Before anything else is typed: a later look would take what was told last for an older one's change.
  useLayoutEffect(() => {
    const known = same(told.current, value) && shown.current === asText;
    shown.current = asText;
    told.current = value;
    // An editor may show more than the words that it told: an “else” that nothing is written in yet.
    if (known) return;
    bringTo(editor, now.current.of.toSheet(value), asText);
  }, [editor, value, asText]);
  useEffect(() => {
    editor.setEditable(may, false);
  }, [editor, may]);
  return { editor, store: store.current };
}
