import { Button } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
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
  onSaved?: () => void;
}

// What is changed is on the server, or about to be: nothing to speak of.
const KEPT = ["same", "waiting", "saving", "saved"];

/** What is changed and not saved: it says so, and is saved (Ctrl S) or thrown away; throwing away can be undone. */
export function DraftBar<Doc>({ draft, able = true, fresh = false, time, onSaved }: DraftBarProps<Doc>) {
  const ready = able && draft.changed && draft.standing.kind !== "clash";
  const save = async () => {
    if (await draft.save()) onSaved?.();
  };
  useHotkeys([["mod+S", () => ready && void save()]], []);
  return (
    <>
      {KEPT.includes(draft.standing.kind) ? (
        draft.changed && !fresh && <span className="soft">changed, not saved</span>
      ) : (
        <Standing standing={draft.standing} time={time} />
      )}
      {draft.changed && <Button onClick={() => throwAway(draft)}>Throw away</Button>}
      <Button variant="filled" disabled={!ready} loading={draft.saving} onClick={() => void save()}>
        Save
      </Button>
    </>
  );
}
