import { useDebouncedCallback } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, useWords, vocabularyQuery } from "../../../api";
import { count, duration } from "../../../core/words";
import { IdSelect, NumberField, PageHead, Trouble } from "../../../ui";
import { CurveChart } from "../../dispatch";
import type { Change } from "../queries";
import paceClasses from "./PaceStop.module.css";
import classes from "./StopSheet.module.css";

type Campaign = Schemas["CampaignView"];

/** How fast it may go, and when it would end. */
export function PaceStop({ campaign, onChange }: { campaign: Campaign; onChange: (change: Change) => void }) {
  const words = useWords();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [pace, setPace] = useState(campaign.pace);
  const later = useDebouncedCallback((next: typeof pace) => onChange({ pace: { ...next } }), 250);
  function set(change: Partial<typeof pace>) {
    const next = { ...pace, ...change };
    setPace(next);
    later(next);
  }
  const { forecast } = campaign;
  const takes = forecast ? (Date.parse(forecast.end) - Date.parse(forecast.start)) / 1000 : 0;
  return (
    <div className={classes.middle}>
      <PageHead title="Pace" about={campaign.pace_words} />
      <div className={classes.pick}>
        <IdSelect
          label="It comes from"
          empty="choose"
          value={campaign.sender_id}
          options={(vocabulary?.senders ?? []).map((one) => ({
            id: one.id,
            words: `${one.name} <${one.address}>`,
          }))}
          onChange={(id) => onChange({ sender_id: id })}
        />
        <IdSelect
          label="It goes through"
          empty="choose a relay"
          value={campaign.relay_id}
          options={(vocabulary?.relays ?? []).map((one) => ({
            id: one.id,
            words: `${one.name}${one.hourly_limit ? `, at most ${count(one.hourly_limit)} an hour` : ""}`,
          }))}
          onChange={(id) => onChange({ relay_id: id })}
        />
      </div>
      <div className={paceClasses.numbers}>
        <NumberField
          label="Batch"
          description="people at a time"
          min={1}
          max={5000}
          allowDecimal={false}
          value={pace.batch_size}
          onNumber={(batch_size) => set({ batch_size })}
        />
        <NumberField
          label="Gap"
          description="seconds between batches"
          min={0}
          max={86400}
          allowDecimal={false}
          value={pace.gap_seconds}
          onNumber={(gap_seconds) => set({ gap_seconds })}
        />
        <NumberField
          label="Hourly limit"
          description="blank: only the relay's own"
          min={1}
          max={1000000}
          allowDecimal={false}
          value={pace.hourly_limit ?? null}
          onNumber={(hourly_limit) => set({ hourly_limit })}
          onBlank={() => set({ hourly_limit: null })}
        />
      </div>
      {forecast && campaign.clearance ? (
        <section className={paceClasses.forecast}>
          <h2>
            {campaign.clearance.cleared === 0
              ? "Nobody would get it"
              : `Released now, it ends ${words.moment(forecast.end)}, after ${duration(takes)}`}
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
