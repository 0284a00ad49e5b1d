import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { May, type Schemas, useWords, wordsOf } from "../../api";
import { count, duration, people, percent } from "../../core/words";
import { ConfirmButton, Empty, PageHead, Trouble } from "../../ui";
import { linesOf } from "./curves";
import classes from "./Dispatch.module.css";
import { Answers } from "./parts/Answers";
import { BatchStrip } from "./parts/BatchStrip";
import { CurveChart } from "./parts/CurveChart";
import { type Only, TracePanel } from "./parts/TracePanel";
import { Troubles } from "./parts/Troubles";
import { rehearsalQuery } from "./queries";
import { RehearsalSeen } from "./seen";

interface RehearsedRunProps {
  rehearsal: number;
  trace: number | undefined;
  onTrace: (delivery: number | undefined) => void;
  onBack: () => void;
  onThrowAway: () => Promise<unknown>;
}

/** A rehearsal: how a run went, or goes, in the simulated world. */
export function RehearsedRun({ rehearsal, trace, onTrace, onBack, onThrowAway }: RehearsedRunProps) {
  const [only, setOnly] = useState<Only>();
  const { data: view, error } = useQuery(rehearsalQuery(rehearsal));
  const words = useWords();
  if (error && !view)
    return (
      <div className={classes.middle}>
        <Trouble>{wordsOf(error)}</Trouble>
        <div>
          <Button onClick={onBack}>All rehearsals</Button>
        </div>
      </div>
    );
  if (!view) return null;
  const { dispatch, rehearsal: told } = view;
  const now = told.state === "going" ? (told.its_time ?? undefined) : undefined;
  const head = (
    <PageHead title={titleOf(view)} about={`in the scenario “${told.scenario}”`}>
      <Button onClick={onBack}>All rehearsals</Button>
      <May be="write">
        <ConfirmButton words="Throw it away…" yes="Throw it away" onYes={onThrowAway} />
      </May>
    </PageHead>
  );
  if (!dispatch)
    return (
      <div className={classes.middle}>
        {head}
        {told.trouble ? (
          <Trouble>{told.trouble}</Trouble>
        ) : (
          <Empty title="It begins in a moment">
            A worker plays it as soon as one is free. You can leave.
          </Empty>
        )}
      </div>
    );
  return (
    <RehearsalSeen.Provider value={rehearsal}>
      <div className={classes.dispatch}>
        <div className={classes.middle}>
          {head}
          <p className="soft" role="status">
            Nobody got anything, and nothing real was changed. {timesOf(view, words.moment)}
          </p>
          {told.trouble && <Trouble>{told.trouble}</Trouble>}
          {dispatch.brake && <Trouble tone="held">It would have paused by itself. {dispatch.brake}</Trouble>}
          <CurveChart
            total={dispatch.planned}
            lines={linesOf(dispatch, now)}
            now={now}
            closed={dispatch.closed}
          />
          <BatchStrip batches={dispatch.batches} />
          <div className={classes.two}>
            <section>
              <h2>What it waited for</h2>
              {dispatch.waited.length === 0 && <p className="soft">Nothing.</p>}
              {dispatch.waited.slice(0, 4).map((one) => (
                <p key={one.words}>
                  <b>{duration(one.seconds)}</b> {one.words}
                </p>
              ))}
            </section>
            <section>
              <h2>Trouble</h2>
              <Troubles view={dispatch} onOnly={setOnly} />
            </section>
          </div>
          <Answers run={dispatch.run_id} onTrace={onTrace} />
        </div>
        <TracePanel
          run={dispatch.run_id}
          over={false}
          trace={trace}
          only={only}
          onOnly={setOnly}
          onTrace={onTrace}
          onRun={() => undefined}
        />
      </div>
    </RehearsalSeen.Provider>
  );
}

function titleOf({ rehearsal, dispatch, moving }: Schemas["RehearsalView"]): string {
  if (rehearsal.state === "waiting" || (!dispatch && !rehearsal.trouble)) return "Rehearsal";
  if (rehearsal.state === "broken_off" || !dispatch) return "Rehearsal broken off";
  const accepted = dispatch.states.accepted ?? 0;
  if (rehearsal.state === "going")
    return `${percent(dispatch.planned - moving, dispatch.planned)} is through`;
  return `Rehearsed: ${count(accepted)} of ${people(dispatch.planned)} accepted`;
}

/** When it was done in its own time, and when the forecast of its release said it would be. */
function timesOf({ rehearsal, dispatch }: Schemas["RehearsalView"], moment: (iso: string) => string): string {
  if (!rehearsal.its_time) return "";
  if (rehearsal.state === "going") return `In its own time it is ${moment(rehearsal.its_time)}.`;
  if (rehearsal.state !== "over") return `In its own time it came to ${moment(rehearsal.its_time)}.`;
  const end = dispatch?.ended_at ?? rehearsal.its_time;
  const took = duration((Date.parse(end) - Date.parse(rehearsal.starts_at)) / 1000);
  const foretold = dispatch?.planned_curve.at(-1)?.at;
  return `In its own time it was done ${moment(end)}, after ${took}${
    foretold ? `; the forecast said ${moment(foretold)}` : ""
  }.`;
}
