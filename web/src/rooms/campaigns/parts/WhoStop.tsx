import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useEffect, useMemo, useState } from "react";
import { type Draft, MayChange, type Schemas, useMay, useWords, vocabularyQuery } from "../../../api";
import { AGAIN, type Again, type Change } from "../../../core/campaign";
import { EMPTY, readContent } from "../../../core/message";
import { count } from "../../../core/words";
import { Clashes, DraftBar, Empty, IdSelect, OthersDrafts, PageHead, Trouble } from "../../../ui";
import {
  type AudienceDoc,
  audiencesQuery,
  Clearance,
  CriteriaEditor,
  useCriteria,
  useDraftText,
} from "../../audiences";
import { Lens } from "../../messages";
import type { Campaign } from "../useCampaign";
import classes from "./StopSheet.module.css";

interface WhoStopProps {
  campaign: Campaign;
  audience: Schemas["AudienceView"] | undefined;
  draft: Draft<AudienceDoc> | undefined;
  onChange: (change: Change) => void;
}

/** Who gets it: the audience, the topic, and the clearance. */
export function WhoStop({ campaign, audience, draft, onChange }: WhoStopProps) {
  const content = useMemo(
    () => (campaign.content ? readContent(campaign.content) : EMPTY),
    [campaign.content],
  );
  const { data: audiences } = useQuery(audiencesQuery);
  const { data: vocabulary } = useQuery(vocabularyQuery);
  // The last conditions on screen that could be read: whoever is looked at is one of those who are counted beside.
  const [readable, setReadable] = useState<string>();
  const usual = (id: number | null) => vocabulary?.topics.find((one) => one.id === id)?.sender_id ?? null;
  // A topic brings its own sender along, unless somebody chose another one than the last topic's.
  function senderOf(id: number | null): Change {
    const chosen = campaign.sender_id !== null && campaign.sender_id !== usual(campaign.topic_id);
    return chosen || usual(id) === null ? {} : { sender_id: usual(id) };
  }
  return (
    <div className={classes.two}>
      <div className={classes.middle}>
        <PageHead title="Who gets it" />
        <MayChange be="write">
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
              onChange={(id) => onChange({ topic_id: id, ...senderOf(id) })}
            />
            <NativeSelect
              size="xs"
              label="If they had it before"
              value={campaign.again}
              data={AGAIN}
              onChange={(event) => onChange({ again: event.currentTarget.value as Again })}
            />
          </div>
        </MayChange>
        {audience && draft && (
          <Chosen
            key={audience.id}
            audience={audience}
            draft={draft}
            campaign={campaign}
            onChange={onChange}
            onReadable={setReadable}
          />
        )}
        {audience && !draft && <Empty title="Opening the audience …" />}
        {!audience && audiences && (
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
        content={content}
        messageId={campaign.message_id}
        criteria={(draft?.changed && readable) || (campaign.criteria ?? "everyone")}
        audienceId={campaign.audience_id}
        campaignId={campaign.id}
        topicId={campaign.topic_id}
        senderId={campaign.sender_id}
        poolId={campaign.pool_id}
      />
    </div>
  );
}

interface ChosenProps {
  audience: Schemas["AudienceView"];
  draft: Draft<AudienceDoc>;
  campaign: Campaign;
  onChange: (change: Change) => void;
  onReadable: (text: string) => void;
}

function Chosen({ audience, draft, campaign, onChange, onReadable }: ChosenProps) {
  const words = useWords();
  const may = useMay();
  const criteria = useCriteria(draft.doc.text, useDraftText(draft), audience.id);
  const readable = criteria.settled && criteria.view?.problem === null;
  const read = criteria.view?.problem === null ? criteria.view.text : undefined;
  useEffect(() => {
    if (read) onReadable(read);
  }, [read, onReadable]);
  const others = audience.used_in.filter((use) => use.kind !== "campaign" || use.id !== campaign.id);
  const shared =
    others.length > 0 ? ` It is used by ${others.map((use) => use.name).join(", ")} as well.` : "";
  return (
    <>
      <Clashes standing={draft.standing} onDecide={draft.decide} />
      <OthersDrafts others={draft.others} what="this audience" moment={words.moment} />
      <MayChange be="write">
        <CriteriaEditor criteria={criteria} />
      </MayChange>
      {draft.changed && (
        <Trouble tone="held">
          The campaign goes by the saved audience “{audience.name}”
          {campaign.clearance ? `, ${count(campaign.clearance.cleared)} cleared` : ""}. What follows here is
          of these conditions.{shared}
          <span className={classes.draft}>
            <DraftBar draft={draft} able={readable} time={words.time} />
          </span>
        </Trouble>
      )}
      {draft.fault && <Trouble>{draft.fault}</Trouble>}
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
          {...(may("write") && {
            onLift: (gate: string, lifted: boolean) =>
              onChange({
                lifted: lifted
                  ? [...campaign.lifted, gate].sort()
                  : campaign.lifted.filter((one) => one !== gate),
              }),
          })}
        />
      )}
    </>
  );
}
