/** Undo and redo over everything that is written: the subject, the blocks, the settings below. */
import { useCallback, useRef, useState } from "react";
import type { Content } from "../../../core/content";
import { same } from "../../../core/drafts";
import { wordsIn } from "../../../core/languages";
import { MESSAGE_PARTS } from "../../../core/message";
import { NO_STEPS, redone, type Steps, undone, withStep } from "../../../core/undo";

interface Undo {
  /** Take a change that the author made: of what the words are then, which may not be drawn yet. */
  edit: (change: (now: Content) => Content) => void;
  undo: () => void;
  redo: () => void;
  canUndo: boolean;
  canRedo: boolean;
}

interface Doc {
  name: string;
  content: Content;
}

/** What was done to the message that was written last, and its words then. A new message is number 0. */
let last: { of: number; content: Content; steps: Steps<Doc> } | undefined;

/** The steps go on where an editor of the same words opens anew: a new message gets a page of its own when it is saved. */
function stepsSoFar(of: number, content: Content): Steps<Doc> {
  return last && [0, of].includes(last.of) && same(last.content, content) ? last.steps : NO_STEPS;
}

const docOf = (content: Content): Doc => ({ name: "", content });

export function useUndo(of: number, content: Content, onContent: (next: Content) => void): Undo {
  const [steps, setSteps] = useState<Steps<Doc>>(() => stepsSoFar(of, content));
  const now = useRef({ of, steps, doc: docOf(content), onContent });
  // What is edited between two drawings counts as well; what comes from outside is taken.
  if (now.current.doc.content !== content) now.current.doc = docOf(content);
  now.current.onContent = onContent;
  now.current.of = of;
  const put = useCallback((next: Steps<Doc>, doc: Doc) => {
    now.current.steps = next;
    now.current.doc = doc;
    last = { of: now.current.of, content: doc.content, steps: next };
    setSteps(next);
    now.current.onContent(doc.content);
  }, []);
  const edit = useCallback(
    (change: (now: Content) => Content) => {
      const { steps: was, doc: before } = now.current;
      const next = change(before.content);
      const after = docOf(next);
      put(withStep(was, { before, after, key: whatChanged(before.content, next), at: Date.now() }), after);
    },
    [put],
  );
  const turn = useCallback(
    (way: typeof undone<Doc>) => {
      const turned = way(now.current.steps, now.current.doc, MESSAGE_PARTS);
      if (turned) put(turned.steps, turned.doc);
    },
    [put],
  );
  return {
    edit,
    undo: useCallback(() => turn(undone), [turn]),
    redo: useCallback(() => turn(redone), [turn]),
    canUndo: steps.past.length > 0,
    canRedo: steps.future.length > 0,
  };
}

/** More at once is no typing: a chip, a mark, something pasted. */
const TYPED = 2;

/** Where somebody types; "" where more was changed than by typing, or in more than one place. */
function whatChanged(before: Content, after: Content): string {
  if (before.others !== after.others) {
    const [at, ...more] = after.others.flatMap((one, index) => (one === before.others[index] ? [] : [index]));
    if (at === undefined || more.length > 0 || before.others.length !== after.others.length) return "";
    const none: Content["others"] = [];
    const one = (content: Content) => ({ ...wordsIn(content, at), needed: before.needed, others: none });
    const key = whatChanged(one(before), one(after));
    return key && `${after.others[at]?.language} ${key}`;
  }
  if (before.attachments !== after.attachments) return "";
  const lines = (["subject", "preheader", "language", "needed"] as const).filter(
    (key) => before[key] !== after[key],
  );
  const [line] = lines;
  if (before.blocks === after.blocks && lines.length === 1 && line) {
    return isTyping(before[line], after[line]) ? line : "";
  }
  if (lines.length > 0 || before.blocks.length !== after.blocks.length) return "";
  const changed = after.blocks.flatMap((block, at) => (block === before.blocks[at] ? [] : [at]));
  const [at] = changed;
  if (changed.length !== 1 || at === undefined) return "";
  return isTyping(before.blocks[at], after.blocks[at]) ? `block ${after.blocks[at]?.id}` : "";
}

const isTyping = (before: unknown, after: unknown) =>
  Math.abs(JSON.stringify(after).length - JSON.stringify(before).length) <= TYPED;
