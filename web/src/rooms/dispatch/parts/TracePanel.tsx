import { Button, Group, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { wordsOf } from "../../../api";
import { ButtonLink, Trouble, useKeys } from "../../../ui";
import { againQuery, deliveriesQuery, traceQuery } from "../queries";
import { useRehearsalSeen } from "../seen";
import { Again } from "./Again";
import { SentMessage } from "./SentMessage";
import classes from "./TracePanel.module.css";
import { TraceSteps } from "./TraceSteps";

export interface Only {
  state: string | null;
  response: string | null;
  words: string;
}

interface TracePanelProps {
  run: number;
  trace: number | undefined;
  /** Show only people in this state, or with this response. */
  only: Only | undefined;
  /** Is the run over? */
  over: boolean;
  onOnly: (only: Only | undefined) => void;
  onTrace: (delivery: number | undefined) => void;
  onRun: (run: number) => void;
}

/** Any one person of the run: find them, and see everything that happened to them. */
export function TracePanel({ run, trace, only, over, onOnly, onTrace, onRun }: TracePanelProps) {
  const [search, setSearch] = useState("");
  const [asked] = useDebouncedValue(search, 150);
  const { data: found } = useQuery(
    deliveriesQuery(run, asked, only?.state ?? null, only?.response ?? null, useRehearsalSeen()),
  );
  const at = found?.findIndex((one) => one.id === trace) ?? -1;
  const keys = useMemo(() => {
    const go = (step: number) => {
      const next = found?.[Math.min(Math.max(0, at + step), (found?.length ?? 1) - 1)];
      if (next) onTrace(next.id);
    };
    return { j: () => go(1), k: () => go(-1), Escape: () => onTrace(undefined) };
  }, [found, at, onTrace]);
  useKeys(keys);
  return (
    <aside className={classes.panel} aria-label="Trace">
      <header className={classes.head}>
        <h2>Trace of any one person</h2>
        <span className={classes.keys}>
          <kbd>J</kbd> <kbd>K</kbd>
        </span>
      </header>
      <TextInput
        size="xs"
        aria-label="Find a person of this run"
        placeholder="Name or address"
        value={search}
        onChange={(event) => setSearch(event.currentTarget.value)}
      />
      {only && (
        <div className={classes.only}>
          only {only.words}
          <Button size="compact-xs" onClick={() => onOnly(undefined)}>
            Show all
          </Button>
        </div>
      )}
      <div className={classes.found} data-short={trace !== undefined || undefined}>
        {found?.length === 0 && <p className="soft">Nobody.</p>}
        {found?.map((one) => (
          <button
            key={one.id}
            type="button"
            className={classes.person}
            aria-pressed={one.id === trace}
            onClick={() => onTrace(one.id)}
          >
            <bdi>{one.name || one.address}</bdi>
            <span className="soft">{one.state}</span>
          </button>
        ))}
      </div>
      {trace !== undefined && <Steps delivery={trace} over={over} onRun={onRun} />}
    </aside>
  );
}

interface StepsProps {
  delivery: number;
  over: boolean;
  onRun: (run: number) => void;
}

function Steps({ delivery, over, onRun }: StepsProps) {
  const { data: trace, error } = useQuery(traceQuery(delivery, useRehearsalSeen()));
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!trace) return null;
  return (
    <section className={classes.trace}>
      <h2>
        <bdi>{trace.name || trace.address}</bdi> <span className="faint">batch {trace.batch}</span>
      </h2>
      <div className="soft">{trace.address}</div>
      <TraceSteps trace={trace} />
      {over && trace.state === "unknown" && !trace.decided && (
        <OneAgain run={trace.run_id} delivery={delivery} onRun={onRun} />
      )}
      <Group gap={8} wrap="nowrap" mt={10}>
        <SentMessage delivery={delivery} />
        <ButtonLink to="/contacts" search={{ person: trace.contact_id }}>
          Open contact
        </ButtonLink>
      </Group>
    </section>
  );
}

/** What to do about one person of whom nobody knows whether they got it. */
function OneAgain({ run, delivery, onRun }: { run: number; delivery: number; onRun: (run: number) => void }) {
  const { data } = useQuery(againQuery(run, "unknown", delivery));
  return data?.people ? (
    <Again run={run} state="unknown" delivery={delivery} asked={data} onRun={onRun} />
  ) : null;
}
