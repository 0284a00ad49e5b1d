import { TextInput } from "@mantine/core";
import { useState } from "react";
import { type Schemas, useWords } from "../../../api";
import { count } from "../../../core/words";
import { Diamond, type DiamondState } from "../../../ui";
import classes from "./Stops.module.css";

type Campaign = Schemas["CampaignView"];

interface Stop {
  key: string;
  name: string;
  figure: string;
  state: DiamondState;
}

function stopsOf(campaign: Campaign, moment: (iso: string) => string): Stop[] {
  const blocking = (stop: string) =>
    campaign.checks.filter((check) => check.blocking && check.stop === stop).length;
  const mark = (stop: string): DiamondState => (blocking(stop) > 0 ? "attention" : "done");
  const all = campaign.checks.filter((check) => check.blocking).length;
  const run = campaign.runs[0];
  const taken = campaign.clearance;
  const checks = blocking("words");
  // Whoever had a run is held by now: that nobody is left is as it should be.
  const served = run !== undefined && taken?.cleared === 0;
  return [
    {
      key: "who",
      name: "Who",
      figure: served
        ? `${count(run.planned)} in run ${run.number}`
        : taken
          ? `${count(taken.cleared)} cleared of ${count(taken.matched)}`
          : "no audience yet",
      state: served ? "done" : mark("who"),
    },
    {
      key: "words",
      name: "Words",
      figure: checks ? (checks === 1 ? "1 check" : `${checks} checks`) : (campaign.message ?? ""),
      state: mark("words"),
    },
    {
      key: "pace",
      name: "Pace",
      figure: campaign.forecast ? `would end ${moment(campaign.forecast.end)}` : campaign.pace_words,
      state: mark("pace"),
    },
    {
      key: "release",
      name: "Release",
      figure: run
        ? `released ${moment(run.released_at)}`
        : all
          ? `waits for ${all === 1 ? "1 check" : `${all} checks`}`
          : "ready",
      state: run ? "done" : all ? "attention" : "open",
    },
    {
      key: "dispatch",
      name: "Dispatch",
      figure: run ? `run ${run.number} ${run.state}` : "not released",
      state: !run ? "later" : run.state === "going" ? "half" : run.state === "paused" ? "attention" : "done",
    },
  ];
}

interface StopsProps {
  campaign: Campaign;
  here: string;
  onGo: (stop: string) => void;
  onName: (name: string) => void;
}

/** The stops of a run sheet, each with its live figure and state. Any order; nothing is locked but the release. */
export function Stops({ campaign, here, onGo, onName }: StopsProps) {
  const words = useWords();
  const [name, setName] = useState(campaign.name);
  return (
    <nav className={classes.stops} aria-label="Stops">
      <div className={classes.name}>
        <TextInput
          variant="unstyled"
          size="sm"
          aria-label="Name of the campaign"
          classNames={{ input: classes.input }}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
          onBlur={() => name.trim() && name !== campaign.name && onName(name.trim())}
        />
        <span className="soft">{campaign.topic ? `Topic: ${campaign.topic}` : "no topic yet"}</span>
      </div>
      {stopsOf(campaign, words.moment).map((stop) => (
        <button
          key={stop.key}
          type="button"
          className={classes.stop}
          data-state={stop.state}
          aria-current={stop.key === here ? "step" : undefined}
          onClick={() => onGo(stop.key)}
        >
          <Diamond state={stop.state} />
          <span>
            <b>{stop.name}</b>
            <small>{stop.figure}</small>
          </span>
        </button>
      ))}
    </nav>
  );
}
