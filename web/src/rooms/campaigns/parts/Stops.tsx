import { TextInput } from "@mantine/core";
import { useMay, useWords } from "../../../api";
import { count, people, tooLong } from "../../../core/words";
import { Diamond, type DiamondState, Standing } from "../../../ui";
import { isOpen } from "../../dispatch";
import type { Campaign, CampaignEditor } from "../useCampaign";
import classes from "./Stops.module.css";

interface Stop {
  key: string;
  name: string;
  figure: string;
  state: DiamondState;
  changed?: boolean;
}

/** What of a stop is changed and not saved. */
interface Unsaved {
  who: boolean;
  words: boolean;
}

function stopsOf(campaign: Campaign, changed: Unsaved, moment: (iso: string) => string): Stop[] {
  const checks = campaign.checks.filter((check) => check.blocking && !check.code.startsWith("draft_"));
  const blocking = (stop: string) => checks.filter((check) => check.stop === stop).length;
  const mark = (stop: string): DiamondState => (blocking(stop) > 0 ? "attention" : "done");
  const all = checks.length + Number(changed.who) + Number(changed.words);
  const run = campaign.runs[0];
  const moving = run !== undefined && isOpen(run.state);
  const taken = campaign.clearance;
  const wrong = blocking("words");
  const { proofs } = campaign;
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
      state: changed.who ? "attention" : served ? "done" : mark("who"),
      changed: changed.who,
    },
    {
      key: "words",
      name: "Words",
      figure: wrong ? (wrong === 1 ? "1 check" : `${wrong} checks`) : (campaign.message ?? ""),
      state: changed.words ? "attention" : mark("words"),
      changed: changed.words,
    },
    {
      key: "proofs",
      name: "Proofs",
      figure: !proofs
        ? "not made yet"
        : proofs.stale || changed.words || changed.who
          ? "to be made anew"
          : `${proofs.seen} of ${proofs.of} found right`,
      state: !proofs || proofs.stale ? "open" : proofs.seen < proofs.of ? "half" : "done",
    },
    {
      key: "pace",
      name: "Pace",
      // An end is foretold only where something would begin.
      figure:
        campaign.forecast?.end && taken && taken.cleared > 0 && !moving
          ? `would end ${moment(campaign.forecast.end)}`
          : campaign.pace_words,
      state: mark("pace"),
    },
    {
      key: "rehearse",
      name: "Rehearse",
      figure: campaign.rehearsed > 0 ? `${count(campaign.rehearsed)} rehearsed` : "in the simulated world",
      state: campaign.rehearsed > 0 ? "done" : "later",
    },
    {
      key: "release",
      name: "Release",
      figure: moving
        ? `released ${moment(run.released_at)}`
        : campaign.planned
          ? campaign.planned.trouble || campaign.planned.changed
            ? "planned, would not go"
            : `goes ${moment(campaign.planned.at)}`
          : all && !served
            ? `waits for ${all === 1 ? "1 check" : `${all} checks`}`
            : run
              ? `released ${moment(run.released_at)}`
              : "ready",
      state: moving || served ? "done" : all ? "attention" : run ? "done" : "open",
    },
    {
      key: "dispatch",
      name: "Dispatch",
      figure: run ? `run ${run.number} ${run.state}` : "not released",
      state: !run ? "later" : run.state === "going" ? "half" : run.state === "paused" ? "attention" : "done",
    },
    {
      key: "paper",
      name: "On paper",
      figure: campaign.printed > 0 ? `${people(campaign.printed)} got a letter` : "who has no e-mail address",
      state: campaign.printed > 0 ? "done" : "later",
    },
  ];
}

interface StopsProps {
  editor: CampaignEditor;
  changed: Unsaved;
  here: string;
  onGo: (stop: string) => void;
}

/** The stops of a run sheet, each with its live figure and state. Any order; nothing is locked but the release. */
export function Stops({ editor, changed, here, onGo }: StopsProps) {
  const may = useMay()("write");
  const { campaign, saved, standing } = editor;
  const words = useWords();
  return (
    <nav className={classes.stops} aria-label="Stops">
      <div className={classes.name}>
        <TextInput
          readOnly={!may}
          variant="unstyled"
          size="sm"
          aria-label="Name of the campaign"
          classNames={{ input: classes.input }}
          value={campaign.name}
          error={tooLong(campaign.name, 200)}
          onChange={(event) => editor.change({ name: event.currentTarget.value })}
        />
        <span className="soft">{campaign.topic ? `Topic: ${campaign.topic}` : "no topic yet"}</span>
        <div>
          <Standing standing={standing} time={words.time} onRetry={() => void editor.flush()} />
        </div>
      </div>
      <div data-stale={!saved || undefined} className={classes.list}>
        {stopsOf(campaign, changed, words.moment).map((stop) => (
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
              {stop.changed && <small>changed, not saved</small>}
            </span>
          </button>
        ))}
      </div>
    </nav>
  );
}
