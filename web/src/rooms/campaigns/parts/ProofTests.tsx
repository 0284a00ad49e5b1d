import { Button, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, meQuery, renew, type Schemas, take, wordsOf } from "../../../api";
import { Diamond, Trouble } from "../../../ui";
import type { Campaign } from "../useCampaign";
import classes from "./ProofsStop.module.css";

interface ProofTestsProps {
  campaign: Campaign;
  proofs: readonly Schemas["ProofView"][];
}

/** All proofs as tests, one after the other, to look at them in a mail program. */
export function ProofTests({ campaign, proofs }: ProofTestsProps) {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const [address, setAddress] = useState<string>();
  const [done, setDone] = useState(0);
  const to = address ?? me?.email ?? "";
  const send = useMutation({
    mutationFn: async () => {
      setDone(0);
      for (const [index, proof] of proofs.entries()) {
        const sent = await take(
          client.POST("/api/test-send", {
            body: {
              content: campaign.content as Schemas["MessageContent"],
              message_id: campaign.message_id,
              contact_id: proof.contact_id,
              to_address: to,
              topic_id: campaign.topic_id,
              sender_id: campaign.sender_id,
              relay_id: campaign.relay_id,
              marked: true,
            },
          }),
        );
        // What the relay refuses once it refuses for the others too.
        if (!sent.accepted) return sent.words;
        setDone(index + 1);
      }
      return undefined;
    },
    onSettled: () => renew(queries, "campaigns"),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    send.mutate();
  }
  const all = proofs.length === 1 ? "this proof as a test" : `all ${proofs.length} as tests`;
  return (
    <form className={classes.tests} onSubmit={submit}>
      <TextInput
        label={`Send ${all}, with [Test] in the subject, to`}
        value={to}
        onChange={(event) => setAddress(event.currentTarget.value)}
      />
      <Button type="submit" loading={send.isPending}>
        Send {proofs.length === 1 ? "it" : "them"}
      </Button>
      <div aria-live="polite" className={classes.answer}>
        {send.isPending && `${done} of ${proofs.length} sent`}
        {send.isError && (
          <Trouble>
            {done > 0 && `${done} of ${proofs.length} were sent. `}
            {wordsOf(send.error)}
          </Trouble>
        )}
        {send.data && <Trouble tone="held">{send.data}</Trouble>}
        {send.isSuccess && !send.data && (
          <>
            <Diamond state="done" size={13} /> All {proofs.length} were sent to {to}.
          </>
        )}
      </div>
    </form>
  );
}
