import { ActionIcon, NativeSelect, TextInput, VisuallyHidden } from "@mantine/core";
import { useState } from "react";
import {
  clockOf,
  DAY_MINUTES,
  DAY_NAMES,
  DAYS,
  minutesOf,
  type Pace,
  type SendingWindow,
  windowKept,
  windowShown,
} from "../../../core/pace";
import { NumberField } from "../../../ui";
import classes from "./PaceStop.module.css";

interface PaceFormProps {
  pace: Pace;
  /** The fields that hold time zones. */
  zones: { key: string; label: string }[];
  refused: (field: string) => string | undefined;
  onChange: (change: Partial<Pace>) => void;
}

/** Batches, limits, and when it may send. */
export function PaceForm({ pace, zones, refused, onChange }: PaceFormProps) {
  // It stays as it is while somebody empties a field to write another number.
  const [isOpen] = useState(isUsed(pace));
  return (
    <>
      <div className={classes.numbers}>
        <NumberField
          label="Batch"
          rightSection="people"
          rightSectionWidth={62}
          min={1}
          max={5000}
          whole
          error={refused("batch_size")}
          value={pace.batch_size}
          onNumber={(batch_size) => onChange({ batch_size })}
        />
        <Gap seconds={pace.gap_seconds} error={refused("gap_seconds")} onChange={onChange} />
        <Limit label="At most" unit="an hour" name="hourly_limit" {...{ pace, refused, onChange }} />
        <Limit label="and" unit="in 24 h" name="daily_limit" {...{ pace, refused, onChange }} />
      </div>
      <WindowFields window={pace.window} onChange={onChange} />
      {(zones.length > 0 || pace.window?.zone_field) && (
        <WhoseClock window={pace.window} zones={zones} error={refused("window")} onChange={onChange} />
      )}
      <details className={classes.more} open={isOpen}>
        <summary>Ramp-up, quiet dates, limit a minute</summary>
        <div className={classes.numbers}>
          <NumberField
            label="On the first day"
            placeholder="no ramp-up"
            rightSection="people"
            rightSectionWidth={62}
            min={1}
            max={10_000_000}
            whole
            value={pace.ramp_up?.first_day ?? null}
            onNumber={(first_day) => onChange({ ramp_up: { factor: pace.ramp_up?.factor ?? 2, first_day } })}
            onBlank={() => onChange({ ramp_up: null })}
          />
          <NumberField
            label="Each day after"
            rightSection="times"
            rightSectionWidth={56}
            min={1}
            max={10}
            disabled={!pace.ramp_up}
            value={pace.ramp_up?.factor ?? null}
            onNumber={(factor) => pace.ramp_up && onChange({ ramp_up: { ...pace.ramp_up, factor } })}
          />
          <Limit label="At most" unit="a minute" name="minute_limit" {...{ pace, refused, onChange }} />
          <QuietDates dates={pace.quiet_dates} onChange={onChange} />
        </div>
      </details>
    </>
  );
}

function isUsed(pace: Pace): boolean {
  return pace.ramp_up !== null || pace.quiet_dates.length > 0 || pace.minute_limit !== null;
}

interface LimitProps extends Omit<PaceFormProps, "zones"> {
  label: string;
  unit: string;
  name: "minute_limit" | "hourly_limit" | "daily_limit";
}

function Limit({ label, unit, name, pace, refused, onChange }: LimitProps) {
  return (
    <NumberField
      label={label}
      aria-label={`${label} ${unit}`}
      placeholder="the relay’s"
      rightSection={unit}
      rightSectionWidth={68}
      min={1}
      max={name === "daily_limit" ? 10_000_000 : 1_000_000}
      whole
      error={refused(name)}
      value={pace[name]}
      onNumber={(most) => onChange({ [name]: most })}
      onBlank={() => onChange({ [name]: null })}
    />
  );
}

interface GapProps {
  seconds: number;
  error: string | undefined;
  onChange: (change: Partial<Pace>) => void;
}

/** The gap in minutes where it is whole ones, else in seconds; whoever chooses a unit keeps it. */
function Gap({ seconds, error, onChange }: GapProps) {
  const [chosen, setChosen] = useState<number>();
  const unit = seconds % (chosen ?? 60) === 0 ? (chosen ?? (seconds === 0 ? 1 : 60)) : 1;
  return (
    <div className={classes.gap}>
      <NumberField
        // Another unit says the same in another number.
        key={unit}
        label="Every"
        min={0}
        max={86_400 / unit}
        whole
        error={error}
        value={seconds / unit}
        onNumber={(number) => {
          setChosen(unit);
          onChange({ gap_seconds: number * unit });
        }}
      />
      <NativeSelect
        aria-label="Unit of the gap"
        value={String(unit)}
        data={[
          { value: "1", label: "seconds" },
          { value: "60", label: "minutes" },
        ]}
        onChange={(event) => {
          const next = Number(event.currentTarget.value);
          setChosen(next);
          if (seconds % next) onChange({ gap_seconds: Math.ceil(seconds / next) * next });
        }}
      />
    </div>
  );
}

interface WindowProps {
  window: SendingWindow | null;
  onChange: (change: Partial<Pace>) => void;
}

function WindowFields({ window, onChange }: WindowProps) {
  const shown = windowShown(window);
  const [times, setTimes] = useState<{ opens: string; closes: string }>();
  const typed = times ?? { opens: clockOf(shown.opens), closes: clockOf(shown.closes) };
  const read = ({ opens, closes }: typeof typed) => {
    const from = minutesOf(opens);
    const to = minutesOf(closes);
    return from === undefined || to === undefined ? undefined : { from, to: to === 0 ? DAY_MINUTES : to };
  };
  const told = read(typed);
  const fault = told && told.from >= told.to ? "It must close later than it opens." : undefined;
  const keep = (next: SendingWindow) => onChange({ window: windowKept(next) });
  const type = (next: typeof typed) => {
    setTimes(next);
    const both = read(next);
    if (both && both.from < both.to) keep({ ...shown, opens: both.from, closes: both.to });
  };
  const turn = (day: number) => {
    const days = shown.days.includes(day) ? shown.days.filter((one) => one !== day) : [...shown.days, day];
    if (days.length) keep({ ...shown, days });
  };
  return (
    <div className={classes.numbers}>
      <fieldset className={classes.week}>
        <legend>On these days</legend>
        {DAYS.map((name, day) => {
          const on = shown.days.includes(day);
          const last = on && shown.days.length === 1;
          return (
            <button
              key={name}
              type="button"
              aria-pressed={on}
              title={last ? "It needs one day at least." : DAY_NAMES[day]}
              onClick={() => turn(day)}
            >
              <span aria-hidden="true">{name}</span>
              <VisuallyHidden component="span">{DAY_NAMES[day]}</VisuallyHidden>
            </button>
          );
        })}
      </fieldset>
      <TextInput
        type="time"
        label="Between"
        value={typed.opens}
        onChange={(event) => type({ ...typed, opens: event.currentTarget.value })}
        onBlur={() => !fault && setTimes(undefined)}
      />
      <TextInput
        type="time"
        label="and"
        aria-label="and, by the organisation’s clock"
        title="00:00 is the end of the day."
        value={typed.closes}
        error={fault}
        onChange={(event) => type({ ...typed, closes: event.currentTarget.value })}
        onBlur={() => !fault && setTimes(undefined)}
      />
    </div>
  );
}

interface WhoseClockProps extends WindowProps {
  zones: { key: string; label: string }[];
  error: string | undefined;
}

/** Whether the window is by the organisation's clock or by each reader's. */
function WhoseClock({ window, zones, error, onChange }: WhoseClockProps) {
  const chosen = window?.zone_field ?? "";
  const known = zones.some((one) => one.key === chosen);
  return (
    <div className={classes.clock}>
      <NativeSelect
        label="By whose clock"
        disabled={!window}
        title={window ? undefined : "Choose days or hours first."}
        error={error}
        value={chosen}
        data={[
          { value: "", label: "the organisation’s" },
          ...zones.map((one) => ({ value: one.key, label: `each reader’s, by “${one.label}”` })),
          ...(chosen && !known ? [{ value: chosen, label: "each reader’s" }] : []),
        ]}
        onChange={(event) =>
          window && onChange({ window: { ...window, zone_field: event.currentTarget.value || null } })
        }
      />
      {chosen && (
        <p className="soft">
          Whoever is asleep then is passed over, and gets it when their window opens. Who has no time zone
          goes by the organisation’s clock.
        </p>
      )}
    </div>
  );
}

function QuietDates({ dates, onChange }: { dates: string[]; onChange: (change: Partial<Pace>) => void }) {
  return (
    <div className={classes.quiet}>
      <TextInput
        type="date"
        label="Not on"
        value=""
        onChange={(event) => {
          const day = event.currentTarget.value;
          if (day && !dates.includes(day)) onChange({ quiet_dates: [...dates, day].sort() });
        }}
      />
      {dates.map((day) => (
        <span key={day}>
          {new Date(`${day}T12:00:00Z`).toLocaleDateString("en-GB", {
            day: "numeric",
            month: "short",
            year: "numeric",
            timeZone: "UTC",
          })}
          <ActionIcon
            size="xs"
            variant="subtle"
            aria-label={`Take away ${day}`}
            onClick={() => onChange({ quiet_dates: dates.filter((one) => one !== day) })}
          >
            ×
          </ActionIcon>
        </span>
      ))}
    </div>
  );
}
