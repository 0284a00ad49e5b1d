import { Button, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { type Content, EMPTY } from "../../../core/message";
import { Empty, IdSelect, PageHead, Trouble } from "../../../ui";
import { audiencesQuery, Clearance, CriteriaEditor, useCriteria } from "../../audiences";
import { Lens } from "../../messages";
import { type Change, campaignQuery } from "../queries";
import classes from "./StopSheet.module.css";

type Campaign = Schemas["CampaignView"];

const AGAIN: { value: Campaign["again"]; label: string }[] = [
  { value: "new_to_message", label: "nobody gets this message twice" },
  { value: "new_to_campaign", label: "nobody gets this campaign twice" },
  { value: "everybody", label: "they get it again" },
];

interface StopProps {
  campaign: Campaign;
  onChange: (change: Change) => void;
}

/** Who gets it: the audience, the topic, and the clearance. */
export function WhoStop({ campaign, onChange }: StopProps) {
  const { data: audiences } = useQuery(audiencesQuery);
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const audience = audiences?.find((one) => one.id === campaign.audience_id);
  const usual = (id: number | null) => vocabulary?.topics.find((one) => one.id === id)?.sender_id ?? null;
  // A topic brings its own relay along, unless somebody chose another one than the last topic's.
  function relayOf(id: number | null): Change {
    const chosen = campaign.sender_id !== null && campaign.sender_id !== usual(campaign.topic_id);
    return chosen || usual(id) === null ? {} : { sender_id: usual(id) };
  }
  return (
    <div className={classes.two}>
      <div className={classes.middle}>
        <PageHead title="Who gets it" />
        <div className={classes.pick}>
          <IdSelect
            label="Audience"
            empty="choose one"
            value={campaign.audience_id}
            options={(audiences ?? []).map((one) => ({ id: one.id, words: one.name }))}
            onChange={(id) => onChange({ audience_id: id })}
          />
          <IdSelect
            label="They opted in to"
            empty="choose a topic"
            value={campaign.topic_id}
            options={(vocabulary?.topics ?? []).map((one) => ({ id: one.id, words: one.name }))}
            onChange={(id) => onChange({ topic_id: id, ...relayOf(id) })}
          />
          <NativeSelect
            size="xs"
            label="If they had it before"
            value={campaign.again}
            data={AGAIN}
            onChange={(event) => onChange({ again: event.currentTarget.value as Campaign["again"] })}
          />
        </div>
        {audience ? (
          <Chosen
            key={`${audience.id} ${audience.revision}`}
            audience={audience}
            campaign={campaign}
            onChange={onChange}
          />
        ) : (
          <Empty title="Choose an audience">
            Or{" "}
            <Link to="/audiences/$id" params={{ id: "new" }}>
              make a new one
            </Link>{" "}
            from two or three conditions.
          </Empty>
        )}
      </div>
      <Lens
        content={(campaign.content as Content | null) ?? EMPTY}
        criteria={campaign.criteria ?? "everyone"}
        audienceId={campaign.audience_id}
        topicId={campaign.topic_id}
        senderId={campaign.sender_id}
        relayId={campaign.relay_id}
      />
    </div>
  );
}

interface ChosenProps extends StopProps {
  audience: Schemas["AudienceView"];
}

function Chosen({ audience, campaign, onChange }: ChosenProps) {
  const queries = useQueryClient();
  const criteria = useCriteria(audience.text, audience.id);
  const readable = criteria.settled && criteria.view?.problem === null;
  const changed = readable && criteria.text !== audience.text;
  const save = useMutation({
    mutationFn: () =>
      take(
        client.PUT("/api/audiences/{audience_id}", {
          params: { path: { audience_id: audience.id } },
          body: { name: audience.name, text: criteria.text, revision: audience.revision },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: audiencesQuery.queryKey });
      queries.invalidateQueries({ queryKey: campaignQuery(campaign.id).queryKey });
    },
  });
  const others = audience.used_in.filter((use) => use.kind !== "campaign" || use.id !== campaign.id);
  const shared =
    others.length > 0 ? ` It is used by ${others.map((use) => use.name).join(", ")} as well.` : "";
  return (
    <>
      <CriteriaEditor criteria={criteria} />
      {changed && (
        <Trouble tone="held">
          These conditions differ from the audience “{audience.name}”; the campaign goes by the saved ones.
          {shared}{" "}
          <Button size="compact-xs" loading={save.isPending} onClick={() => save.mutate()}>
            Save them
          </Button>
        </Trouble>
      )}
      {save.isError && <Trouble>{wordsOf(save.error)}</Trouble>}
      {criteria.view?.problem === null && (
        <Clearance
          asked={{
            text: criteria.view.text,
            audienceId: audience.id,
            topicId: campaign.topic_id,
            campaignId: campaign.id,
          }}
          topic={campaign.topic ?? undefined}
          name={campaign.name}
          onLift={(gate, lifted) =>
            onChange({
              lifted: lifted ? [...campaign.lifted, gate] : campaign.lifted.filter((one) => one !== gate),
            })
          }
        />
      )}
    </>
  );
}
