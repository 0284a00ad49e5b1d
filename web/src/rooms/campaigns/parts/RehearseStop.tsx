import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { count, duration } from "../../../core/words";
import { Diamond, type DiamondState, Empty, PageHead, Trouble } from "../../../ui";
import { RehearsedRun } from "../../dispatch";
import { rehearsalsQuery } from "../queries";
import type { Campaign } from "../useCampaign";
import classes from "./RehearseStop.module.css";
import sheet from "./StopSheet.module.css";

interface RehearseStopProps {
  campaign: Campaign;
  rehearsal: number | undefined;
  trace: number | undefined;
  onGo: (to: { rehearsal: number | undefined; trace?: number | undefined }) => void;
}

/** The whole run in the simulated world, before it is released: nobody gets anything. */
export function RehearseStop({ campaign, rehearsal, trace, onGo }: RehearseStopProps) {
  const queries = useQueryClient();
  const { data, error } = useQuery(rehearsalsQuery(campaign.id));
  const throwAway = useMutation({
    mutationFn: (id: number) =>
      take(client.DELETE("/api/rehearsals/{rehearsal_id}", { params: { path: { rehearsal_id: id } } })),
    onSuccess: () => {
      onGo({ rehearsal: undefined, trace: undefined });
      return renew(queries, "rehearsals", "campaigns");
    },
  });
  if (error && !data) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!data) return <Empty title="Opening the rehearsals …" />;
  if (rehearsal !== undefined)
    return (
      <>
        {throwAway.isError && <Trouble>{wordsOf(throwAway.error)}</Trouble>}
        <RehearsedRun
          key={rehearsal}
          rehearsal={rehearsal}
          trace={trace}
          onTrace={(next) => onGo({ rehearsal, trace: next })}
          onBack={() => onGo({ rehearsal: undefined, trace: undefined })}
          onThrowAway={() => throwAway.mutateAsync(rehearsal)}
        />
      </>
    );
  return (
    <div className={sheet.middle}>
      <PageHead title="Rehearse" about="the whole run in the simulated world, as fast as it goes" />
      <Ask campaign={campaign} of={data} onAsked={(id) => onGo({ rehearsal: id })} />
      <List rehearsals={data.rehearsals} onOpen={(id) => onGo({ rehearsal: id })} />
    </div>
  );
}

interface AskProps {
  campaign: Campaign;
  of: Schemas["RehearsalsOf"];
  onAsked: (id: number) => void;
}

function Ask({ campaign, of, onAsked }: AskProps) {
  const queries = useQueryClient();
  const [scenario, setScenario] = useState("ordinary");
  const [starts, setStarts] = useState("");
  const about = of.scenarios.find((one) => one.name === scenario)?.about;
  const full = of.rehearsals.length >= of.most;
  const ask = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/campaigns/{campaign_id}/rehearsals", {
          params: { path: { campaign_id: campaign.id } },
          body: { scenario, starts_at: starts || null },
        }),
      ),
    onSuccess: async (view) => {
      await renew(queries, "rehearsals", "campaigns");
      onAsked(view.rehearsal.id);
    },
  });
  return (
    <section className={classes.ask} aria-label="A new rehearsal">
      <p className="soft">
        The same people, words, pace and limits go through the whole engine, to simulated relays and
        providers. What is waited for is skipped, so that a week takes minutes. Nobody gets anything, and
        nothing real is changed.
      </p>
      <May be="write">
        <form
          className={classes.line}
          onSubmit={(event) => {
            event.preventDefault();
            if (!ask.isPending && !full) ask.mutate();
          }}
        >
          <NativeSelect
            size="xs"
            label="How the world is"
            value={scenario}
            data={of.scenarios.map((one) => one.name)}
            onChange={(event) => setScenario(event.currentTarget.value)}
          />
          <TextInput
            type="datetime-local"
            size="xs"
            label="When it begins (now, if empty)"
            value={starts}
            onChange={(event) => setStarts(event.currentTarget.value)}
          />
          <Button type="submit" variant="filled" loading={ask.isPending} disabled={full}>
            Rehearse
          </Button>
        </form>
        <p>{about}</p>
        {full && <p className="soft">{of.most} rehearsals are kept. Throw one away to rehearse again.</p>}
      </May>
      {ask.isError && <Trouble>{wordsOf(ask.error)}</Trouble>}
    </section>
  );
}

const MARKS: Record<Schemas["RehearsalState"], DiamondState> = {
  waiting: "later",
  going: "half",
  over: "done",
  broken_off: "bad",
};

interface ListProps {
  rehearsals: Schemas["RehearsalLine"][];
  onOpen: (id: number) => void;
}

function List({ rehearsals, onOpen }: ListProps) {
  const words = useWords();
  if (rehearsals.length === 0)
    return <Empty title="Not rehearsed yet">What a rehearsal found stands here, to be compared.</Empty>;
  const told = (one: Schemas["RehearsalLine"]) => {
    if (one.trouble) return one.trouble;
    if (one.state === "waiting") return "waits for a worker";
    if (!one.its_time) return "";
    if (one.state === "going") return `in its own time it is ${words.moment(one.its_time)}`;
    const took = duration((Date.parse(one.its_time) - Date.parse(one.starts_at)) / 1000);
    const got = `${count(one.accepted ?? 0)} of ${count(one.planned ?? 0)} accepted`;
    return `${got}, done ${words.moment(one.its_time)}, after ${took} of its own time`;
  };
  return (
    <section aria-label="Rehearsals">
      <h2>Rehearsals</h2>
      <ul className={classes.list}>
        {rehearsals.map((one) => (
          <li key={one.id}>
            <button type="button" className={classes.one} onClick={() => onOpen(one.id)}>
              <Diamond state={MARKS[one.state]} size={14} />
              <b>{one.scenario}</b>
              <span>{told(one)}</span>
              <span className="soft">
                {words.moment(one.asked_at)}
                {one.asked_by ? ` by ${one.asked_by}` : ""}
              </span>
            </button>
          </li>
        ))}
      </ul>
      <p className="soft">They hold the records of these people, and are thrown away after two weeks.</p>
    </section>
  );
}
