/** Inlays as chips in running text: one sign that is inserted, walked over and removed as a whole. */
import { Node } from "@tiptap/core";
import { chipWords, type LabelOf, readInlay } from "../../../core/writing";
import classes from "./chips.module.css";

export interface ChipLabels {
  labelOf: LabelOf;
}

/** What a chip looks like; `source` is the inlay as text. */
export function chipElement(source: string, labelOf: LabelOf): HTMLElement {
  const inlay = readInlay(source);
  const { main, aside } = chipWords(inlay, labelOf);
  const chip = document.createElement("span");
  chip.className = classes.chip ?? "";
  chip.dataset.role = inlay.role;
  chip.title = source;
  chip.append(Object.assign(document.createElement("b"), { textContent: main }));
  if (aside) chip.append(" ", Object.assign(document.createElement("span"), { textContent: aside }));
  return chip;
}

export const Inlay = Node.create<ChipLabels>({
  name: "inlay",
  group: "inline",
  inline: true,
  atom: true,
  selectable: true,
  draggable: false,
  addOptions: () => ({ labelOf: () => undefined }),
  addAttributes: () => ({ source: { default: "" } }),
  parseHTML: () => [
    { tag: "span[data-inlay]", getAttrs: (at) => ({ source: (at as HTMLElement).dataset.inlay ?? "" }) },
  ],
  renderHTML: ({ node }) => ["span", { "data-inlay": node.attrs.source }, node.attrs.source],
  renderText: ({ node }) => node.attrs.source,
  addNodeView() {
    return ({ node }) => {
      const dom = document.createElement("span");
      dom.className = classes.seat ?? "";
      dom.append(chipElement(node.attrs.source, this.options.labelOf));
      return {
        dom,
        selectNode: () => dom.classList.add(classes.chosen ?? ""),
        deselectNode: () => dom.classList.remove(classes.chosen ?? ""),
        update: (next) => {
          if (next.type !== node.type) return false;
          dom.replaceChildren(chipElement(next.attrs.source, this.options.labelOf));
          return true;
        },
      };
    };
  },
});
