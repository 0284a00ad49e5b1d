import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Schemas, wordsOf } from "../../../api";
import { Empty, IdSelect, PageHead, Trouble } from "../../../ui";
import { Lens, MessageEditor, messageQuery, messagesQuery, useDraft } from "../../messages";
import type { Change } from "../queries";
import classes from "./StopSheet.module.css";

type Campaign = Schemas["CampaignView"];

/** The words: the message, its checks, and what it becomes for the cleared people. */
export function WordsStop({
  campaign,
  onChange,
}: {
  campaign: Campaign;
  onChange: (change: Change) => void;
}) {
  const { data: messages } = useQuery(messagesQuery);
  const id = campaign.message_id ?? 0;
  const { data: message } = useQuery({ ...messageQuery(id), enabled: id > 0 });
  const picker = (
    <IdSelect
      label="Message"
      hideLabel
      empty="choose a message"
      value={campaign.message_id}
      options={(messages ?? []).map((one) => ({ id: one.id, words: one.name }))}
      onChange={(next) => onChange({ message_id: next })}
    />
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
  if (!message || message.id !== campaign.message_id) return null;
  return (
    <Writing key={`${message.id} ${message.number}`} campaign={campaign} message={message} picker={picker} />
  );
}

function Writing({
  campaign,
  message,
  picker,
}: {
  campaign: Campaign;
  message: Schemas["MessageView"];
  picker: React.ReactNode;
}) {
  const draft = useDraft(message);
  const [problems, setProblems] = useState(message.problems);
  return (
    <div className={classes.two}>
      <div className={classes.middle}>
        <PageHead title="Words" about={`version ${message.number}${draft.changed ? ", changed" : ""}`}>
          {picker}
          {draft.changed && <Button onClick={draft.undo}>Undo</Button>}
          <Button
            variant="filled"
            disabled={!draft.changed}
            loading={draft.save.isPending}
            onClick={() => draft.save.mutate()}
          >
            Save
          </Button>
        </PageHead>
        {draft.save.isError && <Trouble>{wordsOf(draft.save.error)}</Trouble>}
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
        <MessageEditor content={draft.content} problems={problems} onContent={draft.setContent} />
      </div>
      <Lens
        content={draft.content}
        criteria={campaign.criteria ?? "everyone"}
        audienceId={campaign.audience_id}
        topicId={campaign.topic_id}
        senderId={campaign.sender_id}
        relayId={campaign.relay_id}
        onProblems={setProblems}
      />
    </div>
  );
}
