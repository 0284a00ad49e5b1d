import { NativeSelect } from "@mantine/core";
import type {
  ChosenBySql,
  Event,
  History,
  Imported,
  InAudience,
  NameLists,
  Subscribed,
  Tagged,
} from "../../../core/criteria";
import { SqlInput } from "./SqlInput";
import { DayInput, PeriodInput } from "./ValueInputs";

type About = History | Subscribed | Tagged | Imported | InAudience | ChosenBySql;

/** An unfinished day is the blank text that it is on screen; the server says what is missing. */
type Day = NonNullable<Subscribed["since"]>;

interface AboutInputsProps {
  leaf: About;
  names: NameLists;
  /** What can happen with their mail. */
  events: string[];
  onLeaf: (next: About) => void;
}

/** What is asked beyond the record: what happened with their mail, consent, tags, files, other audiences. */
export function AboutInputs({ leaf, names, events, onLeaf }: AboutInputsProps) {
  switch (leaf.kind) {
    case "history":
      return <HistoryInputs history={leaf} campaigns={names.campaigns} events={events} onHistory={onLeaf} />;
    case "subscribed":
      return (
        <>
          <Name
            label="Topic"
            value={leaf.topic}
            names={names.topics}
            onName={(topic) => onLeaf({ ...leaf, topic })}
          />
          <NativeSelect
            size="xs"
            aria-label="Since when"
            value={leaf.since ? "since" : leaf.as_of ? "as_of" : ""}
            data={[
              { value: "", label: "now" },
              { value: "since", label: "since at least" },
              { value: "as_of", label: "as of the end of" },
            ]}
            onChange={(event) => {
              const day: Day = leaf.since ?? leaf.as_of ?? { kind: "today", count: -30, unit: "days" };
              const way = event.currentTarget.value;
              onLeaf({ ...leaf, since: way === "since" ? day : null, as_of: way === "as_of" ? day : null });
            }}
          />
          {leaf.since && (
            <DayInput
              value={leaf.since}
              instants={false}
              onChange={(since) => onLeaf({ ...leaf, since: since as Day })}
            />
          )}
          {leaf.as_of && (
            <DayInput
              value={leaf.as_of}
              instants={false}
              onChange={(as_of) => onLeaf({ ...leaf, as_of: as_of as Day })}
            />
          )}
        </>
      );
    case "tagged":
      return (
        <Name label="Tag" value={leaf.tag} names={names.tags} onName={(tag) => onLeaf({ ...leaf, tag })} />
      );
    case "in_audience":
      return (
        <Name
          label="Audience"
          value={leaf.audience}
          names={names.audiences}
          onName={(audience) => onLeaf({ ...leaf, audience })}
        />
      );
    case "by_sql":
      return <SqlInput sql={leaf.sql} onSql={(sql) => onLeaf({ ...leaf, sql })} />;
    case "imported":
      return (
        <Name
          label="File"
          value={leaf.file}
          names={names.files}
          onName={(file) => onLeaf({ ...leaf, file })}
        />
      );
  }
}

interface HistoryInputsProps {
  history: History;
  campaigns: string[];
  events: string[];
  onHistory: (next: History) => void;
}

function HistoryInputs({ history, campaigns, events, onHistory }: HistoryInputsProps) {
  const set = (change: Partial<History>) => onHistory({ ...history, ...change });
  return (
    <>
      <NativeSelect
        size="xs"
        aria-label="What happened"
        value={`${history.never ? "never " : ""}${history.event}`}
        data={events.flatMap((event) => [
          { value: event, label: event },
          { value: `never ${event}`, label: `never ${event}` },
        ])}
        onChange={(event) => {
          const [first, second] = event.currentTarget.value.split(" ");
          set({ never: second !== undefined, event: (second ?? first) as Event });
        }}
      />
      <NativeSelect
        size="xs"
        aria-label="In which campaign"
        value={history.campaign ?? ""}
        data={[
          { value: "", label: "in any campaign" },
          ...unknown(history.campaign ?? "", campaigns),
          ...campaigns,
        ]}
        onChange={(event) => set({ campaign: event.currentTarget.value || null })}
      />
      <NativeSelect
        size="xs"
        aria-label="When"
        value={history.within ? "last" : ""}
        data={[
          { value: "", label: "ever" },
          { value: "last", label: "within last" },
        ]}
        onChange={(event) =>
          set({ within: event.currentTarget.value ? { kind: "period", count: 60, unit: "days" } : null })
        }
      />
      {history.within && <PeriodInput value={history.within} onChange={(within) => set({ within })} />}
    </>
  );
}

interface NameProps {
  label: string;
  value: string;
  names: string[];
  onName: (name: string) => void;
}

function Name({ label, value, names, onName }: NameProps) {
  return (
    <NativeSelect
      size="xs"
      aria-label={label}
      value={names.find((name) => name.toLowerCase() === value.toLowerCase()) ?? value}
      data={[...unknown(value, names), ...names]}
      onChange={(event) => onName(event.currentTarget.value)}
    />
  );
}

/** A name that nothing has stays to be seen; the line below says what is wrong with it. */
function unknown(value: string, names: string[]) {
  if (names.some((name) => name.toLowerCase() === value.toLowerCase())) return [];
  return value === "" ? (names.length > 0 ? [] : [{ value: "", label: "there is none yet" }]) : [value];
}
