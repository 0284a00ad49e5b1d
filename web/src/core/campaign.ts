/** A campaign as it is edited and saved, and how two versions of it are merged. */
import { fixedParts, type Kept, member, type Part, type Parts } from "./drafts";
import { PACE_WORDS, type Pace, type PaceView, paceOf } from "./pace";
import { type Tracked, trackedWords } from "./tracking";

export type Again = "new_to_message" | "new_to_campaign" | "everybody";

export const AGAIN: { value: Again; label: string }[] = [
  { value: "new_to_message", label: "nobody gets this message twice" },
  { value: "new_to_campaign", label: "nobody gets this campaign twice" },
  { value: "everybody", label: "they get it again" },
];

export interface CampaignDoc {
  name: string;
  topic_id: number | null;
  audience_id: number | null;
  message_id: number | null;
  sender_id: number | null;
  pool_id: number | null;
  again: Again;
  /** Gates that do not hold for this campaign. */
  lifted: string[];
  /** What is noted of its readers; null: as for all campaigns. */
  track_opens: Tracked | null;
  track_clicks: Tracked | null;
  pace: Pace;
}

/** What of a campaign was edited. */
export type Change = Partial<Omit<CampaignDoc, "pace">> & { pace?: Partial<Pace> };

/** The campaign with a change in it. */
export function withChange(doc: CampaignDoc, change: Change): CampaignDoc {
  return { ...doc, ...change, pace: { ...doc.pace, ...change.pace } };
}

type CampaignView = Omit<CampaignDoc, "pace"> & { pace: PaceView; revision: number };

/** The document in a campaign's view, without what is worked out from it. */
export function campaignDoc(view: CampaignView): Kept<CampaignDoc> {
  const { name, topic_id, audience_id, message_id, sender_id, pool_id, again, lifted, pace, revision } = view;
  const { track_opens, track_clicks } = view;
  return {
    doc: {
      ...{ name, topic_id, audience_id, message_id, sender_id, pool_id, again, track_opens, track_clicks },
      lifted: [...lifted].sort(),
      pace: paceOf(pace),
    },
    revision,
  };
}

/** Names of what is chosen, by its member and id. */
export type NameOf = (member: keyof CampaignDoc, id: number) => string | undefined;

/** The parts of a campaign that are merged each on its own. */
export function campaignParts(nameOf: NameOf): Parts<CampaignDoc> {
  const chosen = (key: keyof CampaignDoc, words: string) =>
    member<CampaignDoc, typeof key>(key, words, (id) =>
      typeof id === "number" ? (nameOf(key, id) ?? `number ${id}`) : "",
    );
  return fixedParts<CampaignDoc>([
    member("name", "Name of the campaign"),
    chosen("audience_id", "Audience"),
    chosen("topic_id", "They opted in to"),
    chosen("message_id", "Message"),
    chosen("sender_id", "It comes from"),
    chosen("pool_id", "It goes through"),
    member(
      "again",
      "If they had it before",
      (again) => AGAIN.find((one) => one.value === again)?.label ?? again,
    ),
    member(
      "lifted",
      "Gates that do not hold",
      (gates) => gates.join(", "),
      (mine, theirs) => [...new Set([...mine, ...theirs])].sort(),
    ),
    member("track_opens", "Who opens it is", trackedWords),
    member("track_clicks", "Who follows a link is", trackedWords),
    ...(Object.keys(PACE_WORDS) as (keyof Pace)[]).map(inPace),
  ]);
}

function inPace<K extends keyof Pace>(key: K): Part<CampaignDoc> {
  const { name, say } = PACE_WORDS[key];
  return {
    key,
    words: name,
    get: (doc) => doc.pace[key],
    set: (doc, value) => ({ ...doc, pace: { ...doc.pace, [key]: value } }),
    say: (doc) => say(doc.pace[key]),
  };
}
