/** A pace as it is edited: how fast a campaign may go, and how carefully it begins. */
import { count, people } from "./words";

export interface SendingWindow {
  /** 0 is Monday. */
  days: number[];
  /** Minutes of the day. */
  opens: number;
  closes: number;
  /** The field with each reader's time zone, where their own clock decides. */
  zone_field: string | null;
}

export interface Pace {
  batch_size: number;
  gap_seconds: number;
  minute_limit: number | null;
  hourly_limit: number | null;
  daily_limit: number | null;
  window: SendingWindow | null;
  quiet_dates: string[];
  ramp_up: { first_day: number; factor: number } | null;
  domain_limits: { domain: string; hourly: number }[];
  first_slice: { people: number; wait_minutes: number; bounce_percent: number } | null;
  brake: {
    last: number;
    bounce_percent: number | null;
    refused_percent: number | null;
    complaint_percent: number | null;
  } | null;
}

/** As the server tells it: what is none may be left out. */
type Loose<T> = { [K in keyof T]?: Loose<T[K]> | null | undefined };
export type PaceView = Loose<Pace> & { batch_size: number; gap_seconds: number };

export const DAY_MINUTES = 1440;
const EVERY_DAY = [0, 1, 2, 3, 4, 5, 6];
export const DAYS = ["Mo", "Tu", "We", "Th", "Fr", "Sa", "Su"];
export const DAY_NAMES = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

/** The whole of a pace. */
export function paceOf(view: PaceView): Pace {
  const { ramp_up: ramp, first_slice: slice, brake, window } = view;
  return {
    batch_size: view.batch_size,
    gap_seconds: view.gap_seconds,
    minute_limit: view.minute_limit ?? null,
    hourly_limit: view.hourly_limit ?? null,
    daily_limit: view.daily_limit ?? null,
    window: window
      ? {
          days: (window.days ?? EVERY_DAY) as number[],
          opens: window.opens ?? 0,
          closes: window.closes ?? DAY_MINUTES,
          zone_field: window.zone_field ?? null,
        }
      : null,
    quiet_dates: (view.quiet_dates ?? []) as string[],
    ramp_up: ramp ? { first_day: ramp.first_day ?? 1, factor: ramp.factor ?? 2 } : null,
    domain_limits: ((view.domain_limits ?? []) as Pace["domain_limits"]).map(({ domain, hourly }) => ({
      domain,
      hourly,
    })),
    first_slice: slice
      ? {
          people: slice.people ?? 50,
          wait_minutes: slice.wait_minutes ?? 30,
          bounce_percent: slice.bounce_percent ?? 3,
        }
      : null,
    brake: brake
      ? {
          last: brake.last ?? 200,
          bounce_percent: brake.bounce_percent ?? null,
          refused_percent: brake.refused_percent ?? null,
          complaint_percent: brake.complaint_percent ?? null,
        }
      : null,
  };
}

/** Do two paces say the same? */
export function samePace(one: Pace, other: Pace): boolean {
  return JSON.stringify(paceOf(one)) === JSON.stringify(paceOf(other));
}

/**
 * The batch and the gap that spread so many people evenly over some hours: at least a message, and at most one batch a
 * minute. The last batch begins within that time.
 */
export function evenly(most: number, hours: number): Pick<Pace, "batch_size" | "gap_seconds"> {
  const seconds = hours * 3600;
  const batches = Math.max(1, Math.min(most, Math.floor(seconds / 60)));
  const size = Math.ceil(most / batches);
  const cut = Math.ceil(most / size);
  return { batch_size: size, gap_seconds: cut > 1 ? Math.floor(seconds / cut) : 0 };
}

const SHORTEST_SECONDS = 60;
const LONGEST_SECONDS = 30 * 86_400;

/** How long a run takes at a place of the slider, from 0 to 100: a minute at one end, thirty days at the other. */
export function secondsAt(place: number): number {
  return Math.round(SHORTEST_SECONDS * (LONGEST_SECONDS / SHORTEST_SECONDS) ** (place / 100));
}

/** … and the other way round, at an end for what lies beyond it. */
export function placeOf(seconds: number): number {
  const share = Math.log(seconds / SHORTEST_SECONDS) / Math.log(LONGEST_SECONDS / SHORTEST_SECONDS);
  return Math.min(100, Math.max(0, 100 * share));
}

/** The window as it is drawn: without one every hour of every day is open. */
export function windowShown(window: SendingWindow | null): SendingWindow {
  return window ?? { days: EVERY_DAY, opens: 0, closes: DAY_MINUTES, zone_field: null };
}

/** A window as it is kept: one that is always open is none. */
export function windowKept(shown: SendingWindow): SendingWindow | null {
  const days = [...shown.days].sort();
  const always = days.length === 7 && shown.opens === 0 && shown.closes === DAY_MINUTES;
  return always ? null : { ...shown, days };
}

/** The fields in which some contact has a time zone, by a few of their values. */
export function zoneFields<F extends { key: string; label: string; samples: string[] }>(fields: F[]): F[] {
  return fields.filter((field) => field.samples.some((one) => /^[A-Z]\w+\/[A-Z]\w+/.test(one)));
}

/** "09:00" for a field of a form; the end of the day is "00:00". */
export function clockOf(minutes: number): string {
  const two = (value: number) => String(value).padStart(2, "0");
  return `${two(Math.floor(minutes / 60) % 24)}:${two(minutes % 60)}`;
}

/** The minutes of the day of "09:00"; undefined for what is no time. */
export function minutesOf(clock: string): number | undefined {
  const told = /^(\d{1,2}):(\d{2})$/.exec(clock);
  const minutes = told ? Number(told[1]) * 60 + Number(told[2]) : Number.NaN;
  return minutes < DAY_MINUTES ? minutes : undefined;
}

/** A domain as it is kept; undefined for what is none. */
export function domainOf(typed: string): string | undefined {
  const domain = typed.trim().replace(/^@/, "").toLowerCase();
  return /^[^\s@]+\.[^\s@]+$/.test(domain) ? domain : undefined;
}

function clockWords(minutes: number): string {
  return minutes === DAY_MINUTES ? "24:00" : clockOf(minutes);
}

function limit(unit: string): (value: number | null) => string {
  return (value) => (value === null ? "" : `${count(value)} ${unit}`);
}

/** How each part of a pace is said where two versions of it differ. */
export const PACE_WORDS: { [K in keyof Pace]: { name: string; say: (value: Pace[K]) => string } } = {
  batch_size: { name: "Batch", say: people },
  gap_seconds: { name: "Gap", say: (seconds) => `${count(seconds)} seconds` },
  minute_limit: { name: "Limit a minute", say: limit("a minute") },
  hourly_limit: { name: "Hourly limit", say: limit("an hour") },
  daily_limit: { name: "Daily limit", say: limit("in 24 hours") },
  window: {
    name: "Sending window",
    say: (window) =>
      window
        ? `${window.days.map((day) => DAYS[day]).join(" ")} ${clockWords(window.opens)}–${clockWords(window.closes)}${
            window.zone_field ? " by each reader’s own clock" : ""
          }`
        : "always",
  },
  quiet_dates: { name: "Quiet dates", say: (dates) => dates.join(", ") },
  ramp_up: {
    name: "Ramp-up",
    say: (ramp) => (ramp ? `${count(ramp.first_day)} on the first day, ${ramp.factor} times each day` : ""),
  },
  domain_limits: {
    name: "Limits of domains",
    say: (limits) => limits.map((one) => `${one.domain}: ${count(one.hourly)} an hour`).join(", "),
  },
  first_slice: {
    name: "First slice",
    say: (slice) => (slice ? `${people(slice.people)}, then ${slice.wait_minutes} min` : "none"),
  },
  brake: {
    name: "Brake",
    say: (brake) =>
      brake
        ? `${brake.bounce_percent ?? "–"} % bounces, ${brake.refused_percent ?? "–"} % refusals, ${brake.complaint_percent ?? "–"} % complaints of the last ${brake.last}`
        : "none",
  },
};
