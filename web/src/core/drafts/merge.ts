/** Two who changed the same thing: what one of them changed alone is taken, what both changed is a clash to decide. */

export type Choice = "mine" | "theirs" | "both";

/** One part of a document that is compared and taken as a whole. */
export interface Part<Doc> {
  key: string;
  /** What it is called on screen. */
  words: string;
  get: (doc: Doc) => unknown;
  set: (doc: Doc, value: unknown) => Doc;
  /** Its value in words. */
  say: (doc: Doc) => string;
  /** Both values in one, where that means something. */
  both?: (mine: Doc, theirs: Doc) => unknown;
}

/** How documents of a kind are compared. */
export interface Parts<Doc> {
  /** The parts that any of the documents has. */
  of: (docs: Doc[]) => Part<Doc>[];
  /** A document with a place for every part of mine and of theirs, in an order that both can live with. */
  frame: (base: Doc, mine: Doc, theirs: Doc) => Doc;
}

export interface Clash {
  key: string;
  words: string;
  mine: string;
  theirs: string;
  canBoth: boolean;
}

export interface Merged<Doc> {
  /** With mine wherever it is not decided. */
  doc: Doc;
  /** What is to be decided still. */
  clashes: Clash[];
}

/** Are two values the same? Documents are plain data; the order of their keys says nothing. */
export function same(one: unknown, other: unknown): boolean {
  if (Object.is(one, other)) return true;
  if (typeof one !== "object" || typeof other !== "object" || one === null || other === null) return false;
  if (Array.isArray(one) !== Array.isArray(other)) return false;
  const left = one as Record<string, unknown>;
  const right = other as Record<string, unknown>;
  const keys = new Set([...Object.keys(left), ...Object.keys(right)]);
  return [...keys].every((key) => same(left[key], right[key]));
}

/** What was changed from `base` to `mine` and to `theirs`, in one document. `choices` decide clashes by part. */
export function merge<Doc>(
  parts: Parts<Doc>,
  base: Doc,
  mine: Doc,
  theirs: Doc,
  choices: Record<string, Choice> = {},
): Merged<Doc> {
  let doc = parts.frame(base, mine, theirs);
  const clashes: Clash[] = [];
  for (const part of parts.of([base, mine, theirs])) {
    const [was, here, there] = [part.get(base), part.get(mine), part.get(theirs)];
    let value = here;
    if (same(here, was)) value = there;
    else if (!same(here, there) && !same(there, was)) {
      const choice = choices[part.key];
      if (choice === "theirs") value = there;
      else if (choice === "both" && part.both) value = part.both(mine, theirs);
      else if (!choice) {
        const words = { mine: part.say(mine), theirs: part.say(theirs) };
        clashes.push({ key: part.key, words: part.words, ...words, canBoth: part.both !== undefined });
      }
    }
    doc = part.set(doc, value);
  }
  return { doc, clashes };
}

/** A part that is one member of a document. */
export function member<Doc, Key extends keyof Doc & string>(
  key: Key,
  words: string,
  say: (value: Doc[Key]) => string = (value) => String(value ?? ""),
  both?: (mine: Doc[Key], theirs: Doc[Key]) => Doc[Key],
): Part<Doc> {
  return {
    key,
    words,
    get: (doc) => doc[key],
    set: (doc, value) => ({ ...doc, [key]: value }),
    say: (doc) => say(doc[key]),
    ...(both ? { both: (mine, theirs) => both(mine[key], theirs[key]) } : {}),
  };
}

/** For documents that have the same parts always. */
export function fixedParts<Doc>(parts: Part<Doc>[]): Parts<Doc> {
  return { of: () => parts, frame: (_, mine) => mine };
}

/** Two orders of the same things in one: theirs where I left it as it was, else mine; what is new stands behind what it stood behind. */
export function mergeOrder(base: string[], mine: string[], theirs: string[]): string[] {
  const left = (order: string[]) => order.filter((id) => base.includes(id));
  const untouched = same(
    left(mine),
    base.filter((id) => mine.includes(id)),
  );
  const [order, other] = untouched ? [[...theirs], mine] : [[...mine], theirs];
  other.forEach((id, at) => {
    if (order.includes(id)) return;
    const before = other.slice(0, at).findLast((one) => order.includes(one));
    order.splice(before === undefined ? 0 : order.indexOf(before) + 1, 0, id);
  });
  return order;
}
