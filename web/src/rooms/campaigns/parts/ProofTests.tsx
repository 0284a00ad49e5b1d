import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { meQuery, type Schemas } from "../../../api";
import { addressesTyped } from "../../../core/testAddresses";
import { TestAnswer, TestTo, useTestSends } from "../../messages";
import type { Campaign } from "../useCampaign";
import classes from "./ProofsStop.module.css";

interface ProofTestsProps {
  campaign: Campaign;
  proofs: readonly Schemas["ProofView"][];
}

/** All proofs as tests, one after the other, to look at them in a mail program. */
export function ProofTests({ campaign, proofs }: ProofTestsProps) {
  const { data: me } = useQuery(meQuery);
  const [typed, setTyped] = useState<string>();
  const to = typed ?? me?.email ?? "";
  const addresses = addressesTyped(to);
  const sends = useTestSends();
  const { send } = sends;
  function submit(event: FormEvent) {
    event.preventDefault();
    if (send.isPending) return;
    send.mutate(
      addresses.flatMap((address) =>
        proofs.map((proof) => ({
          content: campaign.content as Schemas["MessageContent"],
          message_id: campaign.message_id,
          contact_id: proof.contact_id,
          to_address: address,
          topic_id: campaign.topic_id,
          sender_id: campaign.sender_id,
          pool_id: campaign.pool_id,
          marked: true,
        })),
      ),
    );
  }
  const all = proofs.length === 1 ? "this proof as a test" : `all ${proofs.length} as tests`;
  return (
    <form className={classes.tests} onSubmit={submit}>
      <TestTo label={`Send ${all}, with [Test] in the subject, to`} value={to} onChange={setTyped} />
      <Button type="submit" loading={send.isPending} disabled={addresses.length === 0}>
        Send {proofs.length === 1 ? "it" : "them"}
      </Button>
      <div aria-live="polite" className={classes.answer}>
        <TestAnswer {...sends} all={(of) => `All ${of} were sent to ${to}.`} />
      </div>
    </form>
  );
}
