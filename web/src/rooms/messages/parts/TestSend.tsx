import { Button, Checkbox } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { meQuery } from "../../../api";
import type { Content } from "../../../core/message";
import { addressesTyped } from "../../../core/testAddresses";
import { useTestSends } from "../useTestSends";
import { TestAnswer } from "./TestAnswer";
import classes from "./TestSend.module.css";
import { TestTo } from "./TestTo";

interface TestSendProps {
  /** The words as they are when it is sent. */
  wordsNow: () => Content;
  messageId: number | null;
  contactId: number;
  topicId: number | null;
  senderId: number | null;
  poolId: number | null;
}

/** Send exactly this one to oneself, to colleagues, or to addresses typed in. */
export function TestSend({ wordsNow, messageId, contactId, topicId, senderId, poolId }: TestSendProps) {
  const { data: me } = useQuery(meQuery);
  const [typed, setTyped] = useState<string>();
  const [marked, setMarked] = useState(false);
  const to = typed ?? me?.email ?? "";
  const addresses = addressesTyped(to);
  const sends = useTestSends();
  const { send } = sends;
  function submit(event: FormEvent) {
    event.preventDefault();
    if (send.isPending) return;
    const content = wordsNow();
    send.mutate(
      addresses.map((address) => ({
        content,
        message_id: messageId,
        contact_id: contactId,
        to_address: address,
        marked,
        topic_id: topicId,
        sender_id: senderId,
        pool_id: poolId,
      })),
    );
  }
  return (
    <form className={classes.test} onSubmit={submit}>
      <TestTo label="Send this letter as a test to" value={to} onChange={setTyped} />
      <Checkbox
        size="xs"
        label="say [Test] in the subject"
        checked={marked}
        onChange={(event) => setMarked(event.currentTarget.checked)}
      />
      <Button type="submit" loading={send.isPending} disabled={addresses.length === 0}>
        Send test
      </Button>
      <div className={classes.answer} aria-live="polite">
        <TestAnswer {...sends} all={(of) => `All ${of} were sent.`} />
      </div>
    </form>
  );
}
