import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Pace, paceOf, samePace } from "../../../core/pace";
import { pacesQuery } from "../queries";
import type { CampaignEditor } from "../useCampaign";
import classes from "./PaceStop.module.css";

/** Paces to begin from; whoever took one can go back to what was there. */
export function Presets({ editor }: { editor: CampaignEditor }) {
  const { campaign, change } = editor;
  const { data: presets = [] } = useQuery(pacesQuery);
  const [before, setBefore] = useState<Pace>();
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
