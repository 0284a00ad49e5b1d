import { useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useRef, useSyncExternalStore } from "react";
import {
  after,
  asked,
  client,
  keepOpen,
  meQuery,
  mirrorAt,
  renew,
  type Schemas,
  take,
  vocabularyQuery,
} from "../../api";
import {
  type CampaignDoc,
  type Change,
  campaignDoc,
  campaignParts,
  type NameOf,
  withChange,
} from "../../core/campaign";
import { type Choice, Keeper, type Standing } from "../../core/drafts";
import { audiencesQuery } from "../audiences";
import { messagesQuery } from "../messages";
import { campaignQuery, campaignsQuery } from "./queries";

export type Campaign = Schemas["CampaignView"];

export interface CampaignEditor {
  /** The run sheet as it stands on screen; figures and checks are of what is saved. */
  campaign: Campaign;
  standing: Standing;
  /** Is what is on screen also what is saved? */
  saved: boolean;
  change: (change: Change) => void;
  flush: () => Promise<void>;
  decide: (key: string, choice: Choice) => void;
}

/** A campaign that saves itself: one save at a time, always the newest state. Undefined until it is there. */
export function useCampaign(id: number): { editor: CampaignEditor | undefined; error: unknown } {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const { data: view, error } = useQuery(campaignQuery(id));
  const nameOf = useNames();
  const ready = view !== undefined && me !== undefined;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a keeper begins once for each campaign
  const keeper = useMemo(() => {
    if (!ready) return undefined;
    const mirror = mirrorAt(me.email, "campaign", id);
    const written = mirror.read<CampaignDoc>();
    const made = new Keeper<CampaignDoc>(
      written?.kept ?? campaignDoc(view),
      {
        parts: campaignParts(nameOf),
        after,
        now: Date.now,
        delay: 250,
        send: async (doc, kept) => {
          const put = client.PUT("/api/campaigns/{campaign_id}", {
            params: { path: { campaign_id: id } },
            body: { ...doc, pace: { ...doc.pace }, revision: kept.revision },
          });
          const next = await asked(take(put), (theirs: Campaign) => campaignDoc(theirs));
          await queries.cancelQueries({ queryKey: campaignQuery(id).queryKey });
          queries.setQueryData(campaignQuery(id).queryKey, next);
          void renew(queries, { queryKey: campaignsQuery.queryKey, exact: true }, "clearance", "lens person");
          return campaignDoc(next);
        },
      },
      written?.body,
    );
    made.subscribe(() => {
      const kept = { doc: made.keptDoc, revision: made.revision };
      mirror.write(made.differs ? { base: kept, kept, body: made.mine } : undefined);
    });
    return made;
  }, [ready, id]);
  useEffect(() => {
    if (!keeper) return;
    const stop = keepOpen(() => keeper.flush());
    return () => {
      stop();
      void keeper.flush();
    };
  }, [keeper]);
  useEffect(() => {
    if (view) keeper?.took(campaignDoc(view));
  }, [keeper, view]);
  const doc = useSyncExternalStore(keeper?.subscribe ?? nothing, () => keeper?.mine);
  const standing = useSyncExternalStore(keeper?.subscribe ?? nothing, () => keeper?.standing);
  const editor = useMemo(() => {
    if (!keeper || !view || !doc || !standing) return undefined;
    return {
      campaign: { ...view, ...doc, content: doc.message_id === view.message_id ? view.content : null },
      standing,
      saved: !keeper.differs && standing.kind !== "clash",
      change: (change: Change) => keeper.edit(withChange(keeper.mine, change)),
      flush: () => keeper.flush(),
      decide: (key: string, choice: Choice) => keeper.decide(key, choice),
    };
  }, [keeper, view, doc, standing]);
  return { editor, error };
}

const nothing = () => () => {};

/** The names of what can be chosen, as far as they are known when somebody asks. */
function useNames(): NameOf {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const { data: audiences } = useQuery(audiencesQuery);
  const { data: messages } = useQuery(messagesQuery);
  const known = useRef<Partial<Record<keyof CampaignDoc, { id: number; name: string }[]>>>({});
  known.current = {
    ...(vocabulary
      ? { topic_id: vocabulary.topics, sender_id: vocabulary.senders, pool_id: vocabulary.pools }
      : {}),
    ...(audiences ? { audience_id: audiences } : {}),
    ...(messages ? { message_id: messages } : {}),
  };
  return useRef<NameOf>((member, id) => known.current[member]?.find((one) => one.id === id)?.name).current;
}
