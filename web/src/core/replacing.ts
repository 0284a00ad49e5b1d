/** Find and replace in the author's own words: what stands in inlays, addresses, criteria, HTML and shared blocks is left alone. */
import type { Block, Content } from "./content";
import { piecesOf } from "./writing";

/** How often it is found. Small and capital letters are the same to a search. */
export function foundIn(content: Content, search: string): number {
  let found = 0;
  const pattern = patternOf(search);
  if (!pattern) return 0;
  mapped(content, (words) => {
    found += [...words.matchAll(pattern)].length;
    return words;
  });
  return found;
}

/** The content with every place replaced. */
export function replaced(content: Content, search: string, by: string): Content {
  const pattern = patternOf(search);
  return pattern ? mapped(content, (words) => words.replace(pattern, () => by)) : content;
}

const patternOf = (search: string) =>
  search ? new RegExp(search.replace(/[.*+?^${}()|[\]\\]/g, "\\$&"), "giu") : undefined;

/** What people read of a block, by the names of its members; other members are settings. */
const READ = new Set(["text", "label", "title", "value", "total", "alt"]);

function mapped(content: Content, change: (words: string) => string): Content {
  const line = (text: string) =>
    piecesOf(text)
      .map((piece) => (piece.inlay ? piece.text : change(piece.text)))
      .join("");
  const walk = (value: unknown, name: string): unknown => {
    if (typeof value === "string") return READ.has(name) ? line(value) : value;
    if (Array.isArray(value)) return value.map((one) => walk(one, name));
    if (typeof value !== "object" || value === null) return value;
    if ((value as { kind?: unknown }).kind === "shared") return value;
    return Object.fromEntries(Object.entries(value).map(([key, one]) => [key, walk(one, key)]));
  };
  return {
    ...content,
    subject: line(content.subject),
    preheader: line(content.preheader),
    blocks: content.blocks.map((block) => {
      const next = walk(block, "") as Block;
      return JSON.stringify(next) === JSON.stringify(block) ? block : next;
    }),
  };
}
