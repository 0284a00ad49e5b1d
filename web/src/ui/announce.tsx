import { Button } from "@mantine/core";
import { notifications } from "@mantine/notifications";

/** How long a note stays that offers to undo what it tells, in milliseconds. */
const LONG_MS = 20_000;

interface More {
  bad?: boolean;
  /** In milliseconds; a few seconds otherwise, longer where there is an undo. */
  stays?: number;
  undo?: { key: string; act: () => unknown };
}

/**
 * Say in passing what was done, with its undo if there is one.
 *
 * The same words stand there once, however often they are said; with an undo, once for each of its keys.
 */
export function announce(words: string, { bad = false, stays, undo }: More = {}): void {
  const id = notifications.show({
    closeButtonProps: { "aria-label": "Close" },
    id: `${words} ${undo?.key ?? ""}`,
    color: bad ? "red" : undefined,
    autoClose: stays ?? (undo ? LONG_MS : undefined),
    message: (
      <>
        {words}{" "}
        {undo && (
          <Button
            size="compact-xs"
            onClick={() => {
              notifications.hide(id);
              void undo.act();
            }}
          >
            Undo
          </Button>
        )}
      </>
    ),
  });
}
