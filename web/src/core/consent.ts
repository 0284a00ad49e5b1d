import type { components } from "./schema";
import { people } from "./words";

/** Consent in words. */
export const STATE_WORDS: Record<string, string> = {
  subscribed: "opted in",
  paused: "pauses",
  asked: "asked, no answer",
  left: "left",
  never: "never asked",
};

export const KIND_WORDS: Record<string, string> = {
  imported: "opted in (according to the imported list)",
  granted: "opted in",
  confirmed: "confirmed from the mailbox",
  asked: "was asked",
  withdrawn: "left",
  paused: "pauses",
  retracted: "taken back, recorded by mistake",
};

const TOLD = ["legal_basis", "wording", "file", "page", "row"] as const;

/** What stands behind an entry, each after a dot. */
export function evidenceWords(evidence: components["schemas"]["ConsentEvidence"]): string {
  return TOLD.flatMap((key) => {
    const told = evidence[key];
    if (told === undefined || told === null || told === "") return [];
    return [` · ${key === "row" ? "row " : ""}${told}`];
  }).join("");
}

/** What a change set did to a field, in words; the texts are made by the caller. */
export function changeWords(label: string, before: string, after: string): string {
  if (!before) return `${label}: ${after}`;
  return after ? `${label}: ${before} → ${after}` : `${label}: ${before} → blank`;
}

export const REASON_WORDS: Record<string, string> = {
  left_all: "left all topics",
  hard_bounce: "address does not exist",
  complaint: "complained",
  by_hand: "suppressed by hand",
  erased: "asked to be forgotten",
};

/** What an import would do to the consent of those whom it brings, in words. */
export function outlookWords(outlook: { subscribed: number; already: number; left: number }): string {
  const { subscribed, already, left } = outlook;
  const fresh = subscribed === 0 ? "Nobody new is opted in" : `${people(subscribed)} will be opted in`;
  const there = already === 0 ? "" : `; ${people(already)} already ${already === 1 ? "was" : "were"}`;
  const out = left === 0 ? "" : ` ${people(left)} had left: they stay out, only they can come back.`;
  return `${fresh}${there}.${out}`;
}
