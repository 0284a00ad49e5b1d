/** Links in words, and the address in the clipboard that becomes one. */
import { Mark, mergeAttributes } from "@tiptap/core";
import { Plugin, TextSelection } from "@tiptap/pm/state";
import type { EditorView } from "@tiptap/pm/view";
import { wholeAddress } from "../../../core/writing";

/** A link. Its address may hold inlays; in the editor it leads nowhere. */
export const Link = Mark.create({
  name: "link",
  priority: 1100,
  inclusive: false,
  addAttributes: () => ({ href: { default: "", rendered: false } }),
  parseHTML: () => [
    { tag: "a[href]", getAttrs: (at) => safeHref((at as HTMLElement).getAttribute("href") ?? "") },
  ],
  renderHTML: ({ mark, HTMLAttributes }) => [
    "span",
    mergeAttributes(HTMLAttributes, { "data-link": "", title: mark.attrs.href }),
    0,
  ],
  addProseMirrorPlugins() {
    return [new Plugin({ props: { handlePaste: pasteLink } })];
  },
});

/** An address in the clipboard becomes the link of the words that are selected. */
function pasteLink(view: EditorView, event: ClipboardEvent): boolean {
  const { state } = view;
  const href = wholeAddress(event.clipboardData?.getData("text/plain") ?? "");
  const { link } = state.schema.marks;
  if (!href || !link || state.selection.empty || !(state.selection instanceof TextSelection)) return false;
  const { $from, $to, from, to } = state.selection;
  if (!$from.sameParent($to) || !$from.parent.type.allowsMarkType(link)) return false;
  const tr = state.tr.addMark(from, to, link.create({ href }));
  view.dispatch(tr.setSelection(TextSelection.create(tr.doc, to)).removeStoredMark(link));
  return true;
}

/** What is pasted is a link only where it leads to the web or to an address. */
const safeHref = (href: string) => (/^(https?:|mailto:)/i.test(href) ? { href } : false);
