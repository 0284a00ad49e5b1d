import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, type Schemas, take, useWords, wordsOf } from "../../../api";
import { people } from "../../../core/words";
import { Diamond, PageHead, Trouble } from "../../../ui";
import { campaignQuery, previewQuery } from "../queries";
import releaseClasses from "./ReleaseStop.module.css";
import classes from "./StopSheet.module.css";

interface ReleaseStopProps {
  campaign: Schemas["CampaignView"];
  onGo: (stop: string) => void;
  onReleased: (runId: number) => void;
}

/** One sentence that one can read aloud, what stands in the way, and a button that says what it does. */
export function ReleaseStop({ campaign, onGo, onReleased }: ReleaseStopProps) {
  const words = useWords();
  const queries = useQueryClient();
  // The sentence, the number and the people are taken anew when one comes here, so that what changes can be named.
  const { data: fresh, error: unseen } = useQuery(previewQuery(campaign.id, campaign.revision));
  const now = fresh ?? campaign;
  const cleared = now.clearance?.cleared ?? 0;
  const release = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/campaigns/{campaign_id}/release", {
          params: { path: { campaign_id: now.id } },
          body: {
            revision: now.revision,
            seen_cleared: cleared,
            seen_message_number: now.message_number ?? 0,
          },
        }),
      ),
    onSuccess: async (made) => {
      await queries.invalidateQueries({ queryKey: campaignQuery(now.id).queryKey });
      queries.invalidateQueries({ queryKey: ["desk"] });
      onReleased(made.run_id);
    },
    onError: () => {
      queries.invalidateQueries({ queryKey: campaignQuery(now.id).queryKey });
      queries.invalidateQueries({ queryKey: previewQuery(now.id, now.revision).queryKey });
    },
  });
  const blocking = now.checks.filter((check) => check.blocking);
  const advice = now.checks.filter((check) => !check.blocking);
  const running = blocking.some((check) => check.code === "running");
  return (
    <div className={`${classes.middle} ${releaseClasses.release}`}>
      <PageHead title="Release" />
      <blockquote className={releaseClasses.summary}>
        {now.summary}
        {now.forecast &&
          blocking.length === 0 &&
          ` It begins at once and ends about ${words.moment(now.forecast.end)}.`}
      </blockquote>
      <section className={releaseClasses.checks} aria-label="Checks">
        {blocking.length === 0 && (
          <div>
            <Diamond state="done" /> <span>Nothing stands in the way.</span>
          </div>
        )}
        {[...blocking, ...advice].map((check) => (
          <div key={check.code + check.message} data-blocking={check.blocking || undefined}>
            <Diamond state={check.blocking ? "attention" : "open"} />
            <span>
              {check.message} <span className="faint">{check.blocking ? "blocking" : "advice"}</span>
            </span>
            {check.stop !== "release" && (
              <Button size="compact-xs" onClick={() => onGo(check.stop)}>
                Go to {check.stop[0]?.toUpperCase()}
                {check.stop.slice(1)}
              </Button>
            )}
          </div>
        ))}
      </section>
      {unseen && <Trouble>{wordsOf(unseen)}</Trouble>}
      {release.isError && <Trouble>{wordsOf(release.error)}</Trouble>}
      <div>
        <Button
          size="md"
          variant="filled"
          disabled={blocking.length > 0 || !fresh}
          loading={release.isPending || release.isSuccess}
          onClick={() => release.mutate()}
        >
          {running ? "On its way" : `Release to ${people(cleared)}`}
        </Button>
      </div>
      <p className="soft">
        The clearance is taken once more at that moment. You can pause or stop in Dispatch; what has gone out
        cannot be called back.
      </p>
    </div>
  );
}
