import { Button, Checkbox, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, meQuery, renew, take, wordsOf } from "../../../api";
import type { Content } from "../../../core/message";
import { Diamond, Trouble } from "../../../ui";
import classes from "./TestSend.module.css";

interface TestSendProps {
  content: Content;
  messageId: number | null;
  contactId: number;
  name: string;
  topicId: number | null;
  senderId: number | null;
  relayId: number | null;
}

/** Send exactly this one to oneself, or to an address typed in. */
export function TestSend({ content, messageId, contactId, name, topicId, senderId, relayId }: TestSendProps) {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const [address, setAddress] = useState<string>();
  const [marked, setMarked] = useState(false);
  const to = address ?? me?.email ?? "";
  const send = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/test-send", {
          body: {
            content,
            message_id: messageId,
            contact_id: contactId,
            to_address: to,
            marked,
            topic_id: topicId,
            sender_id: senderId,
            relay_id: relayId,
          },
        }),
      ),
    // What was tested stands on the run sheet.
    onSuccess: () => renew(queries, "campaigns"),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    send.mutate();
  }
  return (
    <form className={classes.test} onSubmit={submit}>
      <TextInput
        size="xs"
        label={`Send ${name}'s message as a test to`}
        value={to}
        onChange={(event) => setAddress(event.currentTarget.value)}
      />
      <Button type="submit" loading={send.isPending}>
        Send test
      </Button>
      <Checkbox
        size="xs"
        className={classes.mark ?? ""}
        label="say [Test] in the subject"
        checked={marked}
        onChange={(event) => setMarked(event.currentTarget.checked)}
      />
      <div className={classes.answer} aria-live="polite">
        {send.isError && <Trouble>{wordsOf(send.error)}</Trouble>}
        {send.data && !send.data.accepted && <Trouble tone="held">{send.data.words}</Trouble>}
        {send.data?.accepted && (
          <span className={classes.sent}>
            <Diamond state="done" size={13} /> {send.data.words}
          </span>
        )}
      </div>
    </form>
  );
}
