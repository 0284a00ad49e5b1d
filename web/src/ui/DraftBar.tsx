import { Button } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { memo, type RefObject, useEffect, useRef, useState } from "react";
import type { DraftState } from "../core/drafts";
import { Standing } from "./Standing";
import { throwAway } from "./throwAway";

interface DraftBarProps<Doc> {
  draft: DraftState<Doc> & { save: () => Promise<boolean>; throwAway: () => Doc; edit: (doc: Doc) => void };
  /** Is there all that saving needs? */
  able?: boolean;
  /** Is it a new thing, that nobody has saved yet? */
  fresh?: boolean;
  time: (iso: string) => string;
}

// What is changed is on the server, or about to be: nothing to speak of.
const KEPT = ["same", "waiting", "saving", "saved"];

/** What is changed and not saved: it says so, and is saved (Ctrl S) or thrown away; throwing away can be undone. */
export function DraftBar<Doc>({ draft, able = true, fresh = false, time }: DraftBarProps<Doc>) {
  const now = useRef(draft);
  now.current = draft;
  const ready = able && draft.changed && draft.standing.kind !== "clash";
  // Whoever is quicker than the check of what is to be saved need not press again, if it is still the same then.
  const [wanted, setWanted] = useState<Doc>();
  useHotkeys([["mod+S", () => (ready ? void draft.save() : setWanted(draft.doc))]], []);
  // biome-ignore lint/correctness/useExhaustiveDependencies: it is saved once, when it can be
  useEffect(() => {
    if (wanted === undefined || !ready) return;
    setWanted(undefined);
    if (wanted === draft.doc) void draft.save();
  }, [wanted, ready, draft.doc]);
  return (
    <>
      {KEPT.includes(draft.standing.kind) ? (
        draft.changed && !fresh && <span className="soft">changed, not saved</span>
      ) : (
        <Standing standing={draft.standing} time={time} />
      )}
      <Buttons changed={draft.changed} ready={ready} saving={draft.saving} now={now} />
    </>
  );
}

interface ButtonsProps {
  changed: boolean;
  ready: boolean;
  saving: boolean;
  /** The draft as it is when one of them is pressed. */
  now: RefObject<{ save: () => Promise<boolean>; throwAway: () => unknown; edit: (doc: never) => void }>;
}

/** They stay as they are while somebody types. */
const Buttons = memo(function Buttons({ changed, ready, saving, now }: ButtonsProps) {
  return (
    <>
      {changed && <Button onClick={() => throwAway(now.current)}>Throw away</Button>}
      <Button variant="filled" disabled={!ready} loading={saving} onClick={() => void now.current.save()}>
        Save
      </Button>
    </>
  );
});
