import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { MayChange, useWords, vocabularyQuery } from "../../../api";
import { paceOf, zoneFields } from "../../../core/pace";
import { TRACKED_HERE, type Tracked } from "../../../core/tracking";
import { IdSelect, PageHead, Trouble } from "../../../ui";
import { PoolGauges } from "../../dispatch";
import type { CampaignEditor } from "../useCampaign";
import { CarefulStart } from "./CarefulStart";
import { PaceForecast } from "./PaceForecast";
import { PaceForm } from "./PaceForm";
import paceClasses from "./PaceStop.module.css";
import { Presets } from "./Presets";
import { SlowDomains } from "./SlowDomains";
import classes from "./StopSheet.module.css";

/** How fast it may go, how carefully it begins, and when it would end. */
export function PaceStop({ editor }: { editor: CampaignEditor }) {
  const { campaign, change, standing, saved } = editor;
  const words = useWords();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const refused = (field: string) =>
    standing.kind === "refused" && standing.field.endsWith(field) ? standing.words : undefined;
  const { forecast, gauges } = campaign;
  const pace = paceOf(campaign.pace);
  return (
    <div className={classes.two}>
      <div className={classes.middle}>
        <PageHead title="Pace" about={saved ? campaign.pace_words : undefined} />
        <MayChange be="write">
          <div className={paceClasses.fields}>
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
                empty="choose relays"
                value={campaign.pool_id}
                options={(vocabulary?.pools ?? []).map((one) => ({ id: one.id, words: one.called }))}
                onChange={(id) => change({ pool_id: id })}
              />
            </div>
            <Presets editor={editor} />
            <PaceForm
              pace={pace}
              zones={zoneFields(vocabulary?.fields ?? [])}
              refused={refused}
              onChange={(pace) => change({ pace })}
            />
          </div>
        </MayChange>
        {forecast && campaign.clearance ? (
          <PaceForecast
            campaign={campaign}
            forecast={forecast}
            saved={saved}
            onChange={(pace) => change({ pace })}
          />
        ) : (
          <Trouble tone="held">Choose an audience in Who; then the finishing time stands here.</Trouble>
        )}
      </div>
      <aside className={paceClasses.side}>
        <h2>What it goes through</h2>
        {gauges?.trouble && <Trouble tone="held">{gauges.trouble}</Trouble>}
        {gauges ? <PoolGauges pool={gauges} /> : <p className="soft">No relay is chosen yet.</p>}
        <MayChange be="write">
          <SlowDomains
            limits={pace.domain_limits}
            domains={forecast?.domains ?? []}
            onChange={(domain_limits) => change({ pace: { domain_limits } })}
          />
          <CarefulStart pace={pace} onChange={(pace) => change({ pace })} />
          <h2>What is noted of its readers</h2>
          <NativeSelect
            size="xs"
            label="Who opens it is"
            value={campaign.track_opens ?? ""}
            data={TRACKED_HERE}
            onChange={(event) =>
              change({ track_opens: (event.currentTarget.value || null) as Tracked | null })
            }
          />
          <NativeSelect
            size="xs"
            label="Who follows a link is"
            value={campaign.track_clicks ?? ""}
            data={TRACKED_HERE}
            onChange={(event) =>
              change({ track_clicks: (event.currentTarget.value || null) as Tracked | null })
            }
          />
        </MayChange>
        {forecast && campaign.clearance && campaign.clearance.cleared > 0 && (
          <>
            <h2>{campaign.planned ? "It is planned" : "If it began now"}</h2>
            <p>
              {words.moment(forecast.start)} →{" "}
              <b>{forecast.end ? words.moment(forecast.end) : "longer than twenty years"}</b>
            </p>
          </>
        )}
      </aside>
    </div>
  );
}
