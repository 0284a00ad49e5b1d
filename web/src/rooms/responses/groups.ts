import type { Schemas } from "../../api";

export type Group = Schemas["ResponseGroup"];

/** What stands in the address: a group, and the message or the delivery that is looked at; or a run. */
export interface ResponsesPlace {
  group?: string | undefined;
  mail?: number | undefined;
  delivery?: number | undefined;
  run?: number | undefined;
}

interface GroupWords {
  key: Group;
  label: string;
  /** What is said where nobody stands in it. */
  empty: string;
}

export const GROUPS: readonly GroupWords[] = [
  {
    key: "waiting",
    label: "Waiting for an answer",
    empty: "Whoever writes back waits here until it is done.",
  },
  { key: "replies", label: "All replies", empty: "What people write back stands here." },
  {
    key: "asks",
    label: "Asks to leave",
    empty: "Who asks by mail has left at once. Here stand those whose address we did not write to.",
  },
  { key: "left", label: "Unsubscribed", empty: "Who leaves a topic, by a link or by mail, stands here." },
  {
    key: "gone",
    label: "Bounced for good",
    empty:
      "Addresses that are no more, once mail came back from them. Who is refused at once stands in the dispatch.",
  },
  { key: "bounced", label: "Bounced for now", empty: "Full mailboxes and the like: they stay in." },
  { key: "complained", label: "Complained", empty: "Who tells their provider that a message is spam." },
  { key: "away", label: "Away", empty: "Holiday notes and other answers of machines." },
  {
    key: "unmatched",
    label: "Belongs to nobody",
    empty: "What came and is about nothing of ours. It acts on nobody.",
  },
];

/** The group of an address; the first where it names none. */
export function groupOf(told: string | undefined): GroupWords {
  return GROUPS.find((one) => one.key === told) ?? (GROUPS[0] as GroupWords);
}
