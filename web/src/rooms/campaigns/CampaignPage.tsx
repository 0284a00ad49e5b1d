import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, take, wordsOf } from "../../api";
import { Trouble } from "../../ui";
import { Dispatch } from "../dispatch";
import classes from "./CampaignPage.module.css";
import { PaceStop } from "./parts/PaceStop";
import { ReleaseStop } from "./parts/ReleaseStop";
import { Stops } from "./parts/Stops";
import { WhoStop } from "./parts/WhoStop";
import { WordsStop } from "./parts/WordsStop";
import { type Change, campaignQuery, campaignsQuery } from "./queries";

interface CampaignPageProps {
  id: number;
  stop: string | undefined;
  run: number | undefined;
  trace: number | undefined;
  onGo: (to: { stop?: string; run?: number; trace?: number | undefined }) => void;
}

/** The run sheet: one page from idea to result. */
export function CampaignPage({ id, stop, run, trace, onGo }: CampaignPageProps) {
  const queries = useQueryClient();
  const { data: campaign, error } = useQuery(campaignQuery(id));
  const save = useMutation({
    mutationFn: (change: Change) => {
      if (!campaign) throw new Error("The campaign is not there yet.");
      const { name, revision, topic_id, audience_id, message_id, sender_id, relay_id, again, lifted } =
        campaign;
      const body = {
        ...{ name, revision, topic_id, audience_id, message_id, sender_id, relay_id, again, lifted },
        pace: { ...campaign.pace },
        ...change,
      };
      return take(
        client.PUT("/api/campaigns/{campaign_id}", { params: { path: { campaign_id: id } }, body }),
      );
    },
    onSuccess: (next) => {
      queries.setQueryData(campaignQuery(id).queryKey, next);
      queries.invalidateQueries({ queryKey: campaignsQuery.queryKey, exact: true });
      queries.invalidateQueries({ queryKey: ["clearance"] });
    },
  });
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!campaign) return null;
  const latest = campaign.runs[0];
  const here = stop ?? (latest ? "dispatch" : "who");
  const change = (next: Change) => save.mutate(next);
  return (
    <div className={classes.sheet}>
      <Stops
        campaign={campaign}
        here={here}
        onGo={(next) => onGo({ stop: next, trace: undefined })}
        onName={(name) => change({ name })}
      />
      <div className={classes.rest}>
        {save.isError && <Trouble>{wordsOf(save.error)}</Trouble>}
        {here === "who" && <WhoStop campaign={campaign} onChange={change} />}
        {here === "words" && <WordsStop campaign={campaign} onChange={change} />}
        {here === "pace" && <PaceStop campaign={campaign} onChange={change} />}
        {here === "release" && (
          <ReleaseStop
            campaign={campaign}
            onGo={(next) => onGo({ stop: next })}
            onReleased={(runId) => onGo({ stop: "dispatch", run: runId, trace: undefined })}
          />
        )}
        {here === "dispatch" && (
          <Dispatch
            runs={campaign.runs}
            run={run ?? latest?.id}
            trace={trace}
            onRun={(next) => onGo({ run: next, trace: undefined })}
            onTrace={(next) => onGo({ trace: next })}
          />
        )}
      </div>
    </div>
  );
}
