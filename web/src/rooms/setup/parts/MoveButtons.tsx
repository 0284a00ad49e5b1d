import { ActionIcon } from "@mantine/core";
import { IconArrowDown, IconArrowUp } from "@tabler/icons-react";

/** Further up and further down in a list that people put into an order. */
export function MoveButtons({ label, onMove }: { label: string; onMove: (by: number) => void }) {
  return (
    <>
      <ActionIcon
        variant="subtle"
        color="gray"
        size="sm"
        aria-label={`${label} further up`}
        onClick={() => onMove(-1)}
      >
        <IconArrowUp size={14} />
      </ActionIcon>
      <ActionIcon
        variant="subtle"
        color="gray"
        size="sm"
        aria-label={`${label} further down`}
        onClick={() => onMove(1)}
      >
        <IconArrowDown size={14} />
      </ActionIcon>
    </>
  );
}
