import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type ReactNode, useMemo } from "react";
import { type Draft, May, MayChange, type Schemas, useWords } from "../../../api";
import { branchesOf, type Readers } from "../../../core/branches";
import type { Change } from "../../../core/campaign";
import { readersOf, wordsIn } from "../../../core/languages";
import type { MessageDoc } from "../../../core/message";
import { Clashes, DraftBar, Empty, IdSelect, OthersDrafts, PageHead, Trouble } from "../../../ui";
import { Lens, MessageEditor, messagesQuery, useBesideLens } from "../../messages";
import { blanksQuery, branchesQuery } from "../queries";
import type { Campaign } from "../useCampaign";
import classes from "./StopSheet.module.css";

interface WordsStopProps {
  campaign: Campaign;
  message: Schemas["MessageView"] | undefined;
  draft: Draft<MessageDoc> | undefined;
  onChange: (change: Change) => void;
}

/** The words: the message, its checks, and what it becomes for the cleared people. */
export function WordsStop({ campaign, message, draft, onChange }: WordsStopProps) {
  const { data: messages } = useQuery(messagesQuery);
  const picker = (
    <MayChange be="write">
      <IdSelect
        label="Message"
        hideLabel
        empty="choose a message"
        value={campaign.message_id}
        options={(messages ?? [])
          .filter(
            (one) =>
              one.id === campaign.message_id || (!one.put_away_at && !one.is_starter && !one.is_shared),
          )
          .map((one) => ({ id: one.id, words: one.name }))}
        onChange={(next) => onChange({ message_id: next })}
      />
    </MayChange>
  );
  if (campaign.message_id === null) {
    return (
      <div className={classes.middle}>
        <PageHead title="Words">{picker}</PageHead>
        <Empty title="Choose a message">
          Or{" "}
          <Link to="/messages/$id" params={{ id: "new" }}>
            write a new one
          </Link>
          .
        </Empty>
      </div>
    );
  }
  if (!message || message.id !== campaign.message_id || !draft) {
    return <Empty title="Opening the message …" />;
  }
  return <Writing key={message.id} campaign={campaign} message={message} draft={draft} picker={picker} />;
}

/** How many of the cleared people read each branch of the words in a language. */
function useReaders(campaignId: number, content: MessageDoc["content"], language: string): Readers {
  const others = content.others.map((one) => one.language);
  const at = others.indexOf(language);
  const asked = branchesOf(wordsIn(content, at < 0 ? undefined : at).blocks);
  const branches = asked.map((one) => one.criteria);
  const { data } = useQuery(branchesQuery(campaignId, { branches, language, others }));
  // The words are others at every keystroke, and these seldom.
  const ids = asked.map((one) => one.id).join(" ");
  return useMemo(
    () => Object.fromEntries((ids ? ids.split(" ") : []).map((id, place) => [id, data?.[place] ?? []])),
    [ids, data],
  );
}

interface WritingProps {
  campaign: Campaign;
  message: Schemas["MessageView"];
  draft: Draft<MessageDoc>;
  picker: ReactNode;
}

function Writing({ campaign, message, draft, picker }: WritingProps) {
  const words = useWords();
  const beside = useBesideLens(draft, message.problems);
  const { data: blanks } = useQuery(blanksQuery(campaign.id));
  const readers = useReaders(campaign.id, beside.lens.content, beside.language);
  return (
    <div className={classes.two}>
      <div className={classes.middle}>
        <PageHead title="Words" about={`version ${message.number}`}>
          {picker}
          <May be="write">
            <DraftBar draft={draft} time={words.time} />
          </May>
        </PageHead>
        {draft.fault && <Trouble>{draft.fault}</Trouble>}
        <Clashes standing={draft.standing} onDecide={draft.decide} />
        <OthersDrafts others={draft.others} what="this message" moment={words.moment} />
        {draft.changed && (
          <Trouble tone="held">The campaign goes by the saved words; save these to send them.</Trouble>
        )}
        {campaign.checks
          .filter((check) => check.code === "blank_field" && !draft.changed)
          .map((check) => (
            <Trouble key={check.message} tone="held">
              {check.message}
            </Trouble>
          ))}
        <MayChange be="write">
          <MessageEditor {...beside.words} blanks={blanks} readers={readers} message={message} />
        </MayChange>
      </div>
      <Lens
        {...beside.lens}
        messageId={message.id}
        criteria={readersOf(campaign.criteria ?? "everyone", beside.language)}
        audienceId={campaign.audience_id}
        campaignId={campaign.id}
        topicId={campaign.topic_id}
        senderId={campaign.sender_id}
        poolId={campaign.pool_id}
      />
    </div>
  );
}
