import { Button, Group } from "@mantine/core";
import { type MouseEvent, useState } from "react";

interface Props {
  /** What the button says at first, ending in "…". */
  words: string;
  /** What it says once it asks. */
  yes: string;
  size?: string;
  disabled?: boolean;
  /** Done once, however often it is pressed; what it fails with is told by whoever gave it. */
  onYes: () => Promise<unknown>;
}

/** A button that asks once more before it does what cannot be taken back, or touches many. */
export function ConfirmButton({ words, yes, size = "xs", disabled, onYes }: Props) {
  const [asking, setAsking] = useState(false);
  const [busy, setBusy] = useState(false);
  async function act() {
    setBusy(true);
    await onYes().catch(() => undefined);
    setBusy(false);
    setAsking(false);
  }
  if (!asking)
    return (
      <Button size={size} disabled={disabled} onClick={() => setAsking(true)}>
        {words}
      </Button>
    );
  // The second half of the double click that asked is no answer.
  const answer = (then: () => void) => (event: MouseEvent) => event.detail < 2 && then();
  return (
    <Group gap="xs" wrap="nowrap">
      <Button size={size} autoFocus onClick={answer(() => setAsking(false))}>
        Not yet
      </Button>
      <Button
        size={size}
        variant="filled"
        color="red.9"
        loading={busy}
        disabled={disabled}
        onClick={answer(act)}
      >
        {yes}
      </Button>
    </Group>
  );
}
