/** What was done to a document, to be undone and done again; what somebody else did meanwhile stays. */
import { merge, type Parts, same } from "./drafts";

interface Step<Doc> {
  before: Doc;
  after: Doc;
  /** Typing that goes on in one place is one step: `key` says where, `at` when it was typed last, in milliseconds. */
  key: string;
  at: number;
}

/** Two keystrokes further apart are two steps. */
const PAUSE = 1_000;
const MOST_STEPS = 200;

export interface Steps<Doc> {
  past: readonly Step<Doc>[];
  future: readonly Step<Doc>[];
}

export const NO_STEPS: Steps<never> = { past: [], future: [] };

/** The steps with one more. */
export function withStep<Doc>(steps: Steps<Doc>, step: Step<Doc>): Steps<Doc> {
  const last = steps.past.at(-1);
  const goesOn =
    last !== undefined &&
    steps.future.length === 0 &&
    step.key !== "" &&
    last.key === step.key &&
    last.after === step.before &&
    step.at - last.at < PAUSE;
  const past = goesOn
    ? [...steps.past.slice(0, -1), { ...step, before: last.before }]
    : [...steps.past.slice(1 - MOST_STEPS), step];
  return { past, future: [] };
}

/** The document with the last step undone, and the steps then; undefined where there is none. */
export function undone<Doc>(
  steps: Steps<Doc>,
  now: Doc,
  parts: Parts<Doc>,
): { steps: Steps<Doc>; doc: Doc } | undefined {
  const last = steps.past.at(-1);
  if (!last) return undefined;
  const rest = { past: steps.past.slice(0, -1), future: [...steps.future, last] };
  return { steps: rest, doc: turned(now, last.after, last.before, parts) };
}

/** The document with the last undone step done again. */
export function redone<Doc>(
  steps: Steps<Doc>,
  now: Doc,
  parts: Parts<Doc>,
): { steps: Steps<Doc>; doc: Doc } | undefined {
  const next = steps.future.at(-1);
  if (!next) return undefined;
  const rest = { past: [...steps.past, next], future: steps.future.slice(0, -1) };
  return { steps: rest, doc: turned(now, next.before, next.after, parts) };
}

/** From `was` to `wanted`, with what differs between `was` and `now` as it is now. */
function turned<Doc>(now: Doc, was: Doc, wanted: Doc, parts: Parts<Doc>): Doc {
  return same(now, was) ? wanted : merge(parts, was, wanted, now).doc;
}
