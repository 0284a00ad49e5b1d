/** Addresses of the web in running text, without the signs that end a sentence. */
import type { Passage } from "../passages";

const ADDRESS = /\bhttps?:\/\/[^\s<>"\\]+/gi;
const BEHIND = /[.,;:!?'"’”“»…]+$/;

/** An address with what is behind it in a sentence taken off; a bracket stays that was opened in it. */
function bare(found: string): string {
  let address = found.replace(BEHIND, "");
  while (/[)\]]$/.test(address)) {
    const [open, close] = address.endsWith(")") ? ["(", ")"] : ["[", "]"];
    if (address.split(open).length >= address.split(close).length) break;
    address = address.slice(0, -1).replace(BEHIND, "");
  }
  return address;
}

/** Each address in a text, with where it begins. An inlay is none and ends none. */
export function addressesIn(text: string): { at: number; address: string }[] {
  return [...text.matchAll(ADDRESS)].flatMap((found) => {
    const address = bare(found[0].split("@{", 1)[0] ?? "");
    return address.length > "https://".length && !/:\/\/$/.test(address)
      ? [{ at: found.index, address }]
      : [];
  });
}

/** The address that a text is and nothing else; undefined where it is none. */
export function wholeAddress(text: string): string | undefined {
  const trimmed = text.trim();
  return /^(?:https?:\/\/|mailto:)[^\s<>"\\]+$/i.test(trimmed) ? trimmed : undefined;
}

/** Plain text as passages: its addresses are links. */
export function linked(text: string): Passage[] {
  const plain = { bold: false, italic: false, colour: "" as const };
  const out: Passage[] = [];
  let at = 0;
  for (const found of addressesIn(text)) {
    if (found.at > at) out.push({ ...plain, text: text.slice(at, found.at), link: "" });
    out.push({ ...plain, text: found.address, link: found.address });
    at = found.at + found.address.length;
  }
  if (at < text.length || out.length === 0) out.push({ ...plain, text: text.slice(at), link: "" });
  return out;
}
