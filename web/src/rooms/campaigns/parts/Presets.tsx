import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { evenly, type Pace, paceOf, samePace } from "../../../core/pace";
import { NumberField } from "../../../ui";
import { pacesQuery } from "../queries";
import type { CampaignEditor } from "../useCampaign";
import classes from "./PaceStop.module.css";

/** Paces to begin from; whoever took one can go back to what was there. */
export function Presets({ editor }: { editor: CampaignEditor }) {
  const { campaign, change } = editor;
  const { data: presets = [] } = useQuery(pacesQuery);
  const [before, setBefore] = useState<Pace>();
  const [hours, setHours] = useState(4);
  const cleared = campaign.clearance?.cleared ?? 0;
  const current = paceOf(campaign.pace);
  const chosen = presets.find((one) => samePace(paceOf(one.pace), current));
  return (
    <div className={classes.presets}>
      {presets.map((preset) => (
        <Button
          key={preset.key}
          size="xs"
          variant={preset === chosen ? "light" : "default"}
          aria-pressed={preset === chosen}
          title={preset.about}
          onClick={() => {
            if (preset === chosen) return;
            setBefore(current);
            change({ pace: paceOf(preset.pace) });
          }}
        >
          {preset.name}
        </Button>
      ))}
      {cleared > 0 && (
        <form
          className={classes.evenly}
          onSubmit={(event) => {
            event.preventDefault();
            setBefore(current);
            change({ pace: evenly(cleared, hours) });
          }}
        >
          <Button type="submit" size="xs">
            Evenly over
          </Button>
          <NumberField
            aria-label="Hours to spread it over"
            size="xs"
            w={64}
            min={1}
            max={720}
            whole
            value={hours}
            onNumber={setHours}
          />
          <span>h</span>
        </form>
      )}
      {before && !samePace(before, current) && (
        <Button
          size="xs"
          variant="subtle"
          onClick={() => {
            change({ pace: before });
            setBefore(undefined);
          }}
        >
          Back to what it was
        </Button>
      )}
      {chosen && <span className="soft">{chosen.about}</span>}
    </div>
  );
}
