import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";

/** Throw away what is changed in a draft; it can be brought back from the note that says so. */
export function throwAway(draft: { throwAway: () => unknown; edit: (doc: never) => void }): void {
  const gone = draft.throwAway();
  const id = notifications.show({
    autoClose: 12_000,
    message: (
      <>
        Your changes are thrown away.{" "}
        <Button
          size="compact-xs"
          onClick={() => {
            draft.edit(gone as never);
            notifications.hide(id);
          }}
        >
          Undo
        </Button>
      </>
    ),
  });
}
