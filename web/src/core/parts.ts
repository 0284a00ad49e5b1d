/** Which part of those who match an audience consists of. */
import type { components } from "./schema";
import { count } from "./words";

export type Places = components["schemas"]["Places"];
export type Share = components["schemas"]["Share"];
export type AudiencePart = Places | Share;

export const FIRST_PART: AudiencePart = {
  kind: "places",
  first: 1,
  last: 500,
  order: "oldest",
  seed: 1,
  spread_over: null,
};

/** The part asked for in another way; what both ways have stays. */
export function partBy(kind: string, part: AudiencePart): AudiencePart {
  const { seed, spread_over } = part;
  return kind === "share"
    ? { kind: "share", from_percent: 0, to_percent: 10, seed, spread_over }
    : { ...FIRST_PART, seed, spread_over };
}

const ORDERS = { oldest: "added first, first", latest: "added last, first", random: "in a random order" };

/** A part, read aloud. */
export function sayPart(part: AudiencePart): string {
  const over = part.spread_over ? `, spread over ${part.spread_over}` : "";
  if (part.kind === "share") return `a random share from ${part.from_percent} to ${part.to_percent} %${over}`;
  return `number ${count(part.first)} to ${count(part.last)}, ${ORDERS[part.order]}${over}`;
}
