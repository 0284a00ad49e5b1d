/** The message document and its edits; nothing is changed in place. */
export type Block =
  | { kind: "heading"; text: string }
  | { kind: "paragraph"; text: string }
  | { kind: "button"; label: string; url: string }
  | { kind: "divider" };

export interface Content {
  version: 1;
  subject: string;
  preheader: string;
  blocks: Block[];
  /** Keys of the fields without which nobody gets it. */
  needed: string[];
}

export const EMPTY: Content = {
  version: 1,
  subject: "",
  preheader: "",
  blocks: [{ kind: "paragraph", text: "" }],
  needed: [],
};

/** A new block of a kind. */
export function newBlock(kind: Block["kind"]): Block {
  switch (kind) {
    case "button":
      return { kind, label: "", url: "https://" };
    case "divider":
      return { kind };
    default:
      return { kind, text: "" };
  }
}

/** The content with one part changed: subject, preheader, blocks.0.text, blocks.1.url … */
export function withPart(content: Content, part: string, value: string): Content {
  if (part === "subject" || part === "preheader") return { ...content, [part]: value };
  const [, index, key] = part.split(".");
  const blocks = content.blocks.map((block, at) =>
    at === Number(index) ? ({ ...block, [key ?? ""]: value } as Block) : block,
  );
  return { ...content, blocks };
}

/** The text of one part. */
export function partOf(content: Content, part: string): string {
  if (part === "subject" || part === "preheader") return content[part];
  const [, index, key] = part.split(".");
  const block = content.blocks[Number(index)] as Record<string, string> | undefined;
  return block?.[key ?? ""] ?? "";
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

/** The inlay that a picker inserts for a field: with a place for a fallback where somebody has none. */
export function inlayFor(key: string, type: string, blank: number): string {
  if (type === "yes_no") return `@{if ${key}}…@{else}…@{end}`;
  return blank > 0 ? `@{${key} else "…"}` : `@{${key}}`;
}
