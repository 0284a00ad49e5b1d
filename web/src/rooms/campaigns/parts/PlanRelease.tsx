import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, take, useMay, useWords, wordsOf } from "../../../api";
import { people } from "../../../core/words";
import { Trouble } from "../../../ui";
import { campaignQuery } from "../queries";
import type { Campaign } from "../useCampaign";
import classes from "./ReleaseStop.module.css";

interface PlanReleaseProps {
  /** As it was on screen. */
  campaign: Campaign;
  /** May it be released as it is? */
  clear: boolean;
}

/** A release that goes by itself at a moment; until then it can be changed or taken back. */
export function PlanRelease({ campaign, clear }: PlanReleaseProps) {
  const words = useWords();
  const queries = useQueryClient();
  const may = useMay();
  const [at, setAt] = useState("");
  const { planned } = campaign;
  const path = { params: { path: { campaign_id: campaign.id } } };
  const took = (view: Campaign) => {
    queries.setQueryData(campaignQuery(campaign.id).queryKey, view);
    void renew(queries, "campaigns", "desk");
    setAt("");
  };
  const plan = useMutation({
    mutationFn: () =>
      take(
        client.PUT("/api/campaigns/{campaign_id}/planned", {
          ...path,
          body: {
            at,
            revision: campaign.revision,
            seen_cleared: campaign.clearance?.cleared ?? 0,
            seen_message_number: campaign.message_number ?? 0,
          },
        }),
      ),
    onSuccess: took,
  });
  const takeBack = useMutation({
    mutationFn: () => take(client.DELETE("/api/campaigns/{campaign_id}/planned", path)),
    onSuccess: took,
  });
  const fault = plan.error ?? takeBack.error;
  return (
    <section className={classes.plan} aria-label="Planned release">
      {planned && !planned.trouble && !planned.changed && (
        <p>
          It is released by itself <b>{words.moment(planned.at)}</b>
          {planned.by && `, as ${planned.by} planned it,`} to about {people(planned.people)}: the clearance is
          taken anew then. If a tenth more or fewer are cleared, it waits and you are asked.
        </p>
      )}
      {planned?.trouble && (
        <Trouble>
          It should have been released {words.moment(planned.at)}, and was not: {planned.trouble}
        </Trouble>
      )}
      {planned && !planned.trouble && planned.changed && (
        <Trouble tone="held">
          It was planned for {words.moment(planned.at)}, and the campaign or its words changed since. As it is
          now it would not go: plan it again.
        </Trouble>
      )}
      {may("release") && (
        <form
          className={classes.moment}
          onSubmit={(event) => {
            event.preventDefault();
            if (at && clear && !plan.isPending) plan.mutate();
          }}
        >
          <TextInput
            type="datetime-local"
            size="xs"
            label={planned ? "Another moment" : "Or at a moment"}
            value={at}
            onChange={(event) => setAt(event.currentTarget.value)}
          />
          <Button type="submit" size="xs" disabled={!at || !clear} loading={plan.isPending}>
            {planned ? "Plan it again" : "Plan it"}
          </Button>
          {planned && (
            <Button size="xs" loading={takeBack.isPending} onClick={() => takeBack.mutate()}>
              Take it back
            </Button>
          )}
        </form>
      )}
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
    </section>
  );
}
