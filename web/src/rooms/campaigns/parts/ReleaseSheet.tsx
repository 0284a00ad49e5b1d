import { Button, Group, Modal } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, take, useWords, wordsOf } from "../../../api";
import { people } from "../../../core/words";
import { Trouble } from "../../../ui";
import { campaignQuery } from "../queries";
import type { Campaign } from "../useCampaign";
import classes from "./ReleaseStop.module.css";

interface ReleaseSheetProps {
  /** The campaign as it was looked at. */
  campaign: Campaign;
  onClose: () => void;
  onReleased: (runId: number) => void;
}

/** The last question: to how many, with which subject, from when on. Enter does not say yes. */
export function ReleaseSheet({ campaign, onClose, onReleased }: ReleaseSheetProps) {
  const queries = useQueryClient();
  const words = useWords();
  const cleared = campaign.clearance?.cleared ?? 0;
  const open = campaign.checks.filter((check) => !check.blocking && !check.accepted).length;
  const first = Math.min(cleared, campaign.pace.batch_size);
  const release = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/campaigns/{campaign_id}/release", {
          params: { path: { campaign_id: campaign.id } },
          body: {
            revision: campaign.revision,
            seen_cleared: cleared,
            seen_message_number: campaign.message_number ?? 0,
          },
        }),
      ),
    onSuccess: async (made) => {
      await renew(queries, { queryKey: campaignQuery(campaign.id).queryKey });
      void renew(queries, "desk");
      onReleased(made.run_id);
    },
    // What it was refused for stands on the page then, taken anew.
    onError: () => renew(queries, "campaigns"),
  });
  return (
    <Modal opened onClose={onClose} title={<b>Release to {people(cleared)}?</b>} centered>
      <dl className={classes.last}>
        <dt>To</dt>
        <dd>{people(cleared)}</dd>
        <dt>Subject</dt>
        <dd className={classes.subject}>{campaign.content?.subject}</dd>
        <dt>First</dt>
        <dd>
          {people(first)} at once
          {campaign.forecast?.end && `; the last about ${words.moment(campaign.forecast.end)}`}
        </dd>
        {open > 0 && (
          <>
            <dt>Advice</dt>
            <dd>{open === 1 ? "1 piece" : `${open} pieces`} that nobody accepted</dd>
          </>
        )}
      </dl>
      {release.isError && <Trouble>{wordsOf(release.error)}</Trouble>}
      <Group gap={12} justify="end" wrap="nowrap" mt={14}>
        <Button data-autofocus onClick={onClose}>
          Not yet
        </Button>
        <Button
          variant="filled"
          disabled={release.isError}
          loading={release.isPending || release.isSuccess}
          onClick={() => release.mutate()}
        >
          Release now
        </Button>
      </Group>
    </Modal>
  );
}
