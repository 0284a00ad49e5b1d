import { useQuery } from "@tanstack/react-query";
import { MayChange, useWords, vocabularyQuery } from "../../../api";
import { count, duration } from "../../../core/words";
import { IdSelect, NumberField, PageHead, Trouble } from "../../../ui";
import { CurveChart } from "../../dispatch";
import type { CampaignEditor } from "../useCampaign";
import paceClasses from "./PaceStop.module.css";
import classes from "./StopSheet.module.css";

/** How fast it may go, and when it would end. */
export function PaceStop({ editor }: { editor: CampaignEditor }) {
  const { campaign, change, standing, saved } = editor;
  const words = useWords();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const { pace } = campaign;
  const refused = (field: string) =>
    standing.kind === "refused" && standing.field.endsWith(field) ? standing.words : undefined;
  const { forecast } = campaign;
  const takes = forecast ? (Date.parse(forecast.end) - Date.parse(forecast.start)) / 1000 : 0;
  return (
    <div className={classes.middle}>
      <PageHead title="Pace" about={saved ? campaign.pace_words : undefined} />
      <MayChange be="write">
        <div className={classes.pick}>
          <IdSelect
            label="It comes from"
            empty="choose"
            value={campaign.sender_id}
            options={(vocabulary?.senders ?? []).map((one) => ({
              id: one.id,
              words: `${one.name} <${one.address}>`,
            }))}
            onChange={(id) => change({ sender_id: id })}
          />
          <IdSelect
            label="It goes through"
            empty="choose a relay"
            value={campaign.relay_id}
            options={(vocabulary?.relays ?? []).map((one) => ({
              id: one.id,
              words: `${one.name}${one.hourly_limit ? `, at most ${count(one.hourly_limit)} an hour` : ""}`,
            }))}
            onChange={(id) => change({ relay_id: id })}
          />
        </div>
        <div className={paceClasses.numbers}>
          <NumberField
            label="Batch"
            description="people at a time"
            min={1}
            max={5000}
            whole
            error={refused("batch_size")}
            value={pace.batch_size}
            onNumber={(batch_size) => change({ pace: { batch_size } })}
          />
          <NumberField
            label="Gap"
            description="seconds between batches"
            min={0}
            max={86400}
            whole
            error={refused("gap_seconds")}
            value={pace.gap_seconds}
            onNumber={(gap_seconds) => change({ pace: { gap_seconds } })}
          />
          <NumberField
            label="Hourly limit"
            description="blank: only the relay's own"
            min={1}
            max={1000000}
            whole
            error={refused("hourly_limit")}
            value={pace.hourly_limit ?? null}
            onNumber={(hourly_limit) => change({ pace: { hourly_limit } })}
            onBlank={() => change({ pace: { hourly_limit: null } })}
          />
        </div>
      </MayChange>
      {forecast && campaign.clearance ? (
        <section className={paceClasses.forecast} data-stale={!saved || undefined}>
          <h2>
            {campaign.clearance.cleared === 0
              ? "Nobody would get it"
              : `If released now: done at ${words.moment(forecast.end)} (${duration(takes)})`}
          </h2>
          <CurveChart
            total={campaign.clearance.cleared}
            lines={[{ name: "forecast", points: forecast.curve, style: "expected" }]}
          />
          <p className="soft">
            Those who are told to come back later take longer: the relay decides when. The real curve stands
            beside this one in Dispatch.
          </p>
        </section>
      ) : (
        <Trouble tone="held">Choose an audience in Who; then the finishing time stands here.</Trouble>
      )}
    </div>
  );
}
