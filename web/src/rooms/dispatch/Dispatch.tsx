import { Button, Group, NativeSelect, Popover } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, May, renew, type Schemas, take, useMay, useWords, wordsOf } from "../../api";
import { count, duration, people, percent } from "../../core/words";
import { Empty, PageHead, Trouble } from "../../ui";
import { linesOf } from "./curves";
import classes from "./Dispatch.module.css";
import { Rest } from "./parts/Again";
import { Answers } from "./parts/Answers";
import { BatchStrip } from "./parts/BatchStrip";
import { CurveChart } from "./parts/CurveChart";
import { PoolGauges } from "./parts/PoolGauges";
import { type Only, TracePanel } from "./parts/TracePanel";
import { Troubles } from "./parts/Troubles";
import { dispatchQuery, movingIn } from "./queries";
import { isOpen } from "./runStates";

interface DispatchProps {
  runs: Schemas["RunLine"][];
  run: number | undefined;
  trace: number | undefined;
  onRun: (run: number) => void;
  onTrace: (delivery: number | undefined) => void;
}

/** A run on its way. */
export function Dispatch({ runs, run, trace, onRun, onTrace }: DispatchProps) {
  const [only, setOnly] = useState<Only>();
  const { data: view, error } = useQuery({ ...dispatchQuery(run ?? 0), enabled: run !== undefined });
  const queries = useQueryClient();
  const words = useWords();
  const known = runs.find((one) => one.id === run)?.state;
  const state = view?.state;
  // The stops say what this page says.
  useEffect(() => {
    if (state && known && state !== known) void renew(queries, "campaigns");
  }, [state, known, queries]);
  if (run === undefined) {
    return (
      <div className={classes.middle}>
        <PageHead title="Dispatch" />
        <Empty title="Not released yet">Once the campaign is released, you watch it go out here.</Empty>
      </div>
    );
  }
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!view) return null;
  const now = view.state === "going" ? new Date().toISOString() : undefined;
  return (
    <div className={classes.dispatch}>
      <div className={classes.middle}>
        <Head view={view}>
          {runs.length > 1 && (
            <NativeSelect
              size="xs"
              aria-label="Run"
              value={String(run)}
              data={runs.map((one) => ({ value: String(one.id), label: `Run ${one.number}` }))}
              onChange={(event) => onRun(Number(event.currentTarget.value))}
            />
          )}
        </Head>
        {view.trouble && (
          <Trouble tone="held">
            {view.trouble} Nobody is lost: those who wait are tried again by themselves.
          </Trouble>
        )}
        {view.brake && (
          <Trouble>It paused by itself. {view.brake} Look at what came back before you go on.</Trouble>
        )}
        {view.slice_until && (
          <Trouble tone="held">
            The first slice is out. The rest goes on {words.moment(view.slice_until)}, if too little of it
            bounces to stop.
          </Trouble>
        )}
        <CurveChart total={view.planned} lines={linesOf(view, now)} now={now} closed={view.closed} />
        <BatchStrip batches={view.batches} />
        {!isOpen(view.state) && <Rest view={view} onRun={onRun} />}
        <div className={classes.two}>
          <section>
            <section aria-label="Relays">
              <h2>{view.pool.relays.length > 1 ? "Relays" : "Relay"}</h2>
              <PoolGauges pool={view.pool} />
            </section>
            {view.waited.length > 0 && (
              <>
                <h2 className={classes.gap}>What it waited for</h2>
                {view.waited.slice(0, 4).map((one) => (
                  <p key={one.words}>
                    <b>{duration(one.seconds)}</b> {one.words}
                  </p>
                ))}
              </>
            )}
            <h2 className={classes.gap}>What comes back</h2>
            <Responses view={view} onOnly={setOnly} />
          </section>
          <section>
            <h2>Trouble</h2>
            <Troubles view={view} onOnly={setOnly} />
          </section>
        </div>
        <Answers run={run} onTrace={onTrace} />
        <May be="export">
          <p className="soft">
            The send log, a row for each person with what came back:{" "}
            <a href={`/api/runs/${run}/log.csv`} download>
              as CSV
            </a>
            ,{" "}
            <a href={`/api/runs/${run}/log.xlsx`} download>
              as XLSX
            </a>
          </p>
        </May>
      </div>
      <TracePanel
        run={run}
        over={!isOpen(view.state)}
        trace={trace}
        only={only}
        onOnly={setOnly}
        onTrace={onTrace}
        onRun={onRun}
      />
    </div>
  );
}

function titleOf(view: Schemas["DispatchView"], moment: (iso: string) => string): string {
  const accepted = view.states.accepted ?? 0;
  const through = view.planned - movingIn(view);
  switch (view.state) {
    case "going":
      return `${percent(through, view.planned)} is through, ${view.ends_at ? `done about ${moment(view.ends_at)}` : "nearly done"}`;
    case "paused":
      return `Paused at ${percent(through, view.planned)}`;
    case "stopped":
      return `Stopped: ${people(accepted)} got it`;
    default:
      return `Done: ${count(accepted)} of ${people(view.planned)} accepted`;
  }
}

function Head({ view, children }: { view: Schemas["DispatchView"]; children: React.ReactNode }) {
  const words = useWords();
  const queries = useQueryClient();
  const may = useMay();
  const [asking, setAsking] = useState(false);
  const act = useMutation({
    mutationFn: (what: "pause" | "go-on" | "stop" | "slower" | "faster") =>
      take(client.POST(`/api/runs/{run_id}/${what}`, { params: { path: { run_id: view.run_id } } })),
    onSettled: () => {
      setAsking(false);
      void renew(queries, { queryKey: dispatchQuery(view.run_id).queryKey }, "campaigns", "desk");
    },
  });
  const wait = view.next_batch_at ? (Date.parse(view.next_batch_at) - Date.now()) / 1000 : 0;
  const left = movingIn(view);
  return (
    <>
      <PageHead
        title={titleOf(view, words.moment)}
        about={
          view.state === "going"
            ? wait > 1
              ? `next batch in ${duration(wait)}`
              : view.pace_words
            : `released ${words.moment(view.released_at)}${view.released_by ? ` by ${view.released_by}` : ""}`
        }
      >
        {children}
        <Group gap={8} wrap="nowrap">
          {isOpen(view.state) && may("pause") && (
            <Button
              disabled={act.isPending}
              title="Twice the gap, half of each limit of its own"
              onClick={() => act.mutate("slower")}
            >
              Slower
            </Button>
          )}
          {isOpen(view.state) && may("release") && (
            <Button
              disabled={act.isPending}
              title="Half the gap, twice each limit of its own; the relay’s limits hold all the same"
              onClick={() => act.mutate("faster")}
            >
              Faster
            </Button>
          )}
          {view.state === "going" && may("pause") && (
            <Button variant="outline" loading={act.isPending} onClick={() => act.mutate("pause")}>
              Pause
            </Button>
          )}
          {view.state === "paused" && may("release") && (
            <Button variant="filled" loading={act.isPending} onClick={() => act.mutate("go-on")}>
              Go on
            </Button>
          )}
          {isOpen(view.state) && may("release") && (
            <Popover opened={asking} onChange={setAsking} position="bottom-end" trapFocus>
              <Popover.Target>
                <Button onClick={() => setAsking(true)}>Stop…</Button>
              </Popover.Target>
              <Popover.Dropdown className={classes.ask}>
                <p>
                  {people(left)} who {left === 1 ? "has" : "have"} not got it will not get it by this run. You
                  can send to exactly those later, as a run of its own.
                </p>
                <Button
                  color="red"
                  variant="filled"
                  loading={act.isPending}
                  onClick={() => act.mutate("stop")}
                >
                  Stop for good
                </Button>
              </Popover.Dropdown>
            </Popover>
          )}
        </Group>
      </PageHead>
      {act.isError && <Trouble>{wordsOf(act.error)}</Trouble>}
    </>
  );
}

interface CountedProps {
  what: string;
  level: Schemas["Tracked"];
  times: number;
}

/** What is only counted of a run, or not noted at all. */
function Counted({ what, level, times }: CountedProps) {
  if (level === "off") return <p className={classes.counted}>{what} are not noted</p>;
  if (times === 0 && level === "by_person") return null;
  return (
    <p className={classes.counted}>
      <b>{count(times)}</b> {what}, counted but not by whom
    </p>
  );
}

function Responses({ view, onOnly }: { view: Schemas["DispatchView"]; onOnly: (only: Only) => void }) {
  const { opened = 0, clicked = 0, left = 0, machine_events: machines = 0 } = view.responses;
  const { replied = 0, bounced = 0, complained = 0 } = view.responses;
  const accepted = view.states.accepted ?? 0;
  const line = (words: string, value: number, response: string) => (
    <button
      type="button"
      className={classes.response}
      disabled={value === 0}
      onClick={() => onOnly({ state: null, response, words: `those who ${words}` })}
    >
      <b>{count(value)}</b> {words} <span className="soft">{percent(value, accepted)} of accepted</span>
    </button>
  );
  return (
    <div>
      {view.tracking.opens === "by_person" && line("opened", opened, "opened")}
      {view.tracking.clicks === "by_person" && line("clicked", clicked, "clicked")}
      <Counted what="opens" level={view.tracking.opens} times={view.counted.opened ?? 0} />
      <Counted what="clicks" level={view.tracking.clicks} times={view.counted.clicked ?? 0} />
      {replied > 0 && line("replied", replied, "replied")}
      {line("left", left, "left")}
      {bounced > 0 && line("bounced later", bounced, "bounced")}
      {complained > 0 && line("complained", complained, "complained")}
      <p className={`faint ${classes.machines}`}>
        {count(machines)} fetches by machines are told apart and not counted.
      </p>
    </div>
  );
}
