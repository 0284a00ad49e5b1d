import { Button, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, May, renew, type Schemas, take, useWords, vocabularyQuery, wordsOf } from "../../api";
import { count } from "../../core/words";
import { Diamond, Empty, LineLink, Page, PageHead, Trouble } from "../../ui";
import { RUN_MARKS } from "../dispatch";
import classes from "./CampaignsPage.module.css";
import { campaignsQuery } from "./queries";

/** All campaigns. */
export function CampaignsPage() {
  const { data: campaigns, error } = useQuery(campaignsQuery);
  return (
    <Page>
      <PageHead title="Campaigns" about="one page each, from idea to result">
        <May be="write">
          <NewCampaign />
        </May>
      </PageHead>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {campaigns?.length === 0 && <Empty title="There is no campaign yet">Name one above to begin.</Empty>}
      {campaigns?.map((campaign) => (
        <CampaignLine key={campaign.id} campaign={campaign} />
      ))}
    </Page>
  );
}

function CampaignLine({ campaign }: { campaign: Schemas["CampaignLine"] }) {
  const words = useWords();
  const state = campaign.run_state;
  return (
    <LineLink
      to="/campaigns/$id"
      params={{ id: String(campaign.id) }}
      search={state ? { stop: "dispatch" } : {}}
      className={classes.line}
    >
      <Diamond state={state ? RUN_MARKS[state] : "open"} />
      <b>{campaign.name}</b>
      <span className="soft">
        {[campaign.topic, campaign.audience].filter(Boolean).join(" · ") || "nothing chosen yet"}
      </span>
      <span>
        {state
          ? `${state}: ${count(campaign.accepted)} of ${count(campaign.planned ?? 0)} accepted`
          : "draft"}
        {campaign.planned_at && `, goes ${words.moment(campaign.planned_at)}`}
      </span>
      <span className="soft">{words.moment(campaign.released_at ?? campaign.updated_at)}</span>
    </LineLink>
  );
}

function NewCampaign() {
  const [name, setName] = useState("");
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const make = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/campaigns", {
          body: {
            name,
            topic_id: vocabulary?.topics[0]?.id ?? null,
            sender_id: vocabulary?.senders[0]?.id ?? null,
            pool_id: vocabulary?.pools[0]?.id ?? null,
            again: "new_to_message",
            lifted: [],
            track_opens: null,
            track_clicks: null,
          },
        }),
      ),
    onSuccess: (made) => {
      void renew(queries, { queryKey: campaignsQuery.queryKey, exact: true });
      navigate({ to: "/campaigns/$id", params: { id: String(made.id) }, search: {} });
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate();
  }
  return (
    <form className={classes.make} onSubmit={submit}>
      <TextInput
        aria-label="Name of the new campaign"
        placeholder="Name of a new campaign"
        size="xs"
        value={name}
        error={make.isError && wordsOf(make.error)}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <Button type="submit" variant="filled" disabled={!name.trim()} loading={make.isPending}>
        Create
      </Button>
    </form>
  );
}
