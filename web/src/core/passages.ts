/** Words with marks: passages that follow each other. Nothing is changed in place. */
import type { components } from "./schema";

export type Passage = components["schemas"]["Passage"];

/** No marks. */
export const PLAIN: Omit<Passage, "text"> = { bold: false, italic: false, colour: "", link: "" };

/** A text as words without marks. */
export function wordsOf(text: string): Passage[] {
  return text ? [{ ...PLAIN, text }] : [];
}

/** The text of words. */
export function textOf(words: readonly Passage[]): string {
  return words.map((one) => one.text).join("");
}

/** The words with their text changed: what stays keeps its marks, what is new takes those around it. */
export function withText(words: readonly Passage[], text: string): Passage[] {
  const before = textOf(words);
  let head = 0;
  while (head < before.length && head < text.length && before[head] === text[head]) head += 1;
  let tail = 0;
  const most = Math.min(before.length, text.length) - head;
  while (tail < most && before[before.length - 1 - tail] === text[text.length - 1 - tail]) tail += 1;
  const added = text.slice(head, text.length - tail);
  const left = cut(words, 0, head);
  const right = cut(words, before.length - tail, before.length);
  const around = cut(words, head, before.length - tail)[0] ?? left.at(-1) ?? right[0] ?? PLAIN;
  return joined([...left, { ...PLAIN, ...around, text: added }, ...right]);
}

function cut(words: readonly Passage[], from: number, to: number): Passage[] {
  let at = 0;
  return words.flatMap((one) => {
    const start = at;
    at += one.text.length;
    const text = one.text.slice(Math.max(0, from - start), Math.max(0, to - start));
    return text ? [{ ...one, text }] : [];
  });
}

/** Words whose neighbours differ, none of them empty. */
export function joined(words: readonly Passage[]): Passage[] {
  const out: Passage[] = [];
  for (const one of words.filter((passage) => passage.text)) {
    const last = out.at(-1);
    const same =
      last && (Object.keys(PLAIN) as (keyof typeof PLAIN)[]).every((key) => last[key] === one[key]);
    if (same) out[out.length - 1] = { ...last, text: last.text + one.text };
    else out.push(one);
  }
  return out;
}
