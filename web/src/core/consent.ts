/** Consent in words. */
export const STATE_WORDS: Record<string, string> = {
  subscribed: "opted in",
  paused: "pauses",
  asked: "asked, no answer",
  left: "left",
  never: "never asked",
};

export const KIND_WORDS: Record<string, string> = {
  imported: "opted in, as somebody stated",
  granted: "opted in",
  confirmed: "confirmed",
  asked: "was asked",
  withdrawn: "left",
  paused: "pauses",
  retracted: "taken back, recorded by mistake",
};

const TOLD = ["ground", "wording", "file", "page", "row"] as const;

/** What stands behind an entry, each after a dot. */
export function evidenceWords(evidence: Record<string, unknown>): string {
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
