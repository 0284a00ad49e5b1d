/** Typing @ opens the field picker: what is typed behind it searches, arrows choose, Enter takes. */
import { type Editor, Extension, type Range } from "@tiptap/core";
import type { EditorState } from "@tiptap/pm/state";
import { PluginKey } from "@tiptap/pm/state";
import Suggestion from "@tiptap/suggestion";
import { type FieldOption, piecesOf, type SheetJson, UNFINISHED } from "../../../core/writing";

/** The picker as it stands; `at` is where the typed @ is on the screen. */
export interface Picking {
  options: FieldOption[];
  chosen: number;
  at: DOMRect | null;
  take: (option: FieldOption) => void;
}

/** The state of one picker, outside of React: the editor changes it between two drawings. */
export class PickerStore {
  private picking: Picking | undefined;
  private readonly heard = new Set<() => void>();

  readonly subscribe = (listen: () => void) => {
    this.heard.add(listen);
    return () => this.heard.delete(listen);
  };

  readonly snapshot = () => this.picking;

  set(next: Picking | undefined): void {
    this.picking = next;
    for (const listen of this.heard) listen();
  }

  choose(chosen: number): void {
    if (this.picking) this.set({ ...this.picking, chosen });
  }

  press(key: string): boolean {
    const { picking } = this;
    if (!picking || picking.options.length === 0) return false;
    const most = picking.options.length;
    if (key === "ArrowDown") this.choose((picking.chosen + 1) % most);
    else if (key === "ArrowUp") this.choose((picking.chosen + most - 1) % most);
    else if (key === "Enter" || key === "Tab") {
      const option = picking.options[picking.chosen];
      if (option) picking.take(option);
    } else return false;
    return true;
  }
}

interface Options {
  store: PickerStore;
  /** What can be inserted where the caret is, found by a search. */
  find: (search: string, state: EditorState) => FieldOption[];
  /** Are inlays shown as text? */
  asText: () => boolean;
}

/** More than fit are scrolled; more than these are searched for. */
const MOST = 60;

export function fieldSearch({ store, find, asText }: Options) {
  return Extension.create({
    name: "fieldSearch",
    addProseMirrorPlugins() {
      return [
        Suggestion<FieldOption, FieldOption>({
          pluginKey: new PluginKey("fieldSearch"),
          editor: this.editor,
          char: "@",
          allowSpaces: true,
          allowedPrefixes: null,
          // Behind a word it is an e-mail address, and behind another @ a literal one.
          allow: ({ state, range }) =>
            !/[\p{L}\p{N}._%+@-]$/u.test(
              state.doc.textBetween(Math.max(0, range.from - 1), range.from, " ", " "),
            ),
          items: ({ query, editor }) =>
            query.startsWith("{") ? [] : find(query, editor.state).slice(0, MOST),
          command: ({ editor, range, props }) => insertOption(editor, range, props, asText()),
          render: () => {
            const show = (props: {
              items: FieldOption[];
              clientRect?: (() => DOMRect | null) | null;
              command: (option: FieldOption) => void;
            }) =>
              store.set({
                options: props.items,
                chosen: 0,
                at: props.clientRect?.() ?? null,
                take: props.command,
              });
            return {
              onStart: show,
              onUpdate: show,
              onExit: () => store.set(undefined),
              onKeyDown: ({ event }) => {
                if (event.key === "Escape" && store.snapshot()) {
                  store.set(undefined);
                  return true;
                }
                return store.press(event.key);
              },
            };
          },
        }),
      ];
    },
  });
}

/** Put an option in, in the place of what was typed: the chip is chosen where a fallback is missing, words are typed over. */
function insertOption(editor: Editor, range: Range, option: FieldOption, asText: boolean) {
  const nodes: SheetJson[] = asText
    ? [{ type: "text", text: option.source }]
    : piecesOf(option.source).map((piece) =>
        piece.inlay ? { type: "inlay", attrs: { source: piece.text } } : { type: "text", text: piece.text },
      );
  const chain = editor.chain().focus().insertContentAt(range, nodes);
  const [first, second] = nodes;
  if (asText) chain.run();
  else if (second?.text === UNFINISHED)
    chain.setTextSelection({ from: range.from + 1, to: range.from + 1 + UNFINISHED.length }).run();
  else if (String(first?.attrs?.source).includes(UNFINISHED)) chain.setNodeSelection(range.from).run();
  else chain.setTextSelection(range.from + 1).run();
}
