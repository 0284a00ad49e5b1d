import { announce } from "./announce";

/** Throw away what is changed in a draft; it can be brought back from the note that says so. */
export function throwAway(draft: { throwAway: () => unknown; edit: (doc: never) => void }): void {
  const gone = draft.throwAway();
  announce("Your changes are thrown away.", {
    undo: { key: JSON.stringify(gone), act: () => draft.edit(gone as never) },
  });
}
