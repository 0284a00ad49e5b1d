import { ActionIcon } from "@mantine/core";
import { IconArrowDown, IconArrowUp, IconX } from "@tabler/icons-react";
import { type Block, KIND_WORDS, WRITTEN } from "../../../core/message";
import classes from "./BlockCard.module.css";
import { PartInput, type PartProps } from "./PartInput";

interface BlockCardProps {
  block: Block;
  index: number;
  last: boolean;
  props: (part: string) => PartProps;
  onMove: (step: 1 | -1) => void;
  onRemove: () => void;
}

/** One block of a message. */
export function BlockCard({ block, index, last, props, onMove, onRemove }: BlockCardProps) {
  const place = `${KIND_WORDS[block.kind]}, block ${index + 1}`;
  return (
    <div className={classes.card}>
      <div className={classes.body}>
        {(block.kind === "paragraph" || block.kind === "heading") && (
          <PartInput
            label={place}
            placeholder={
              block.kind === "heading" ? "A line that stands out" : "Write here; @ inserts a field"
            }
            strong={block.kind === "heading"}
            {...props(`blocks.${index}.text`)}
          />
        )}
        {block.kind === "button" && (
          <div className={classes.button}>
            <PartInput
              label={`${place}: label`}
              placeholder="What the button says"
              strong
              {...props(`blocks.${index}.label`)}
            />
            <PartInput
              label={`${place}: address`}
              placeholder="https://…"
              code
              {...props(`blocks.${index}.url`)}
            />
          </div>
        )}
        {block.kind === "divider" && <hr className={classes.line} aria-label={place} />}
        {!(block.kind in WRITTEN) && (
          <p className="soft">
            {KIND_WORDS[block.kind]}. It goes out as it is; here it can be moved and removed.
          </p>
        )}
      </div>
      <div className={classes.tools}>
        <ActionIcon
          variant="subtle"
          color="gray"
          size="sm"
          disabled={index === 0}
          aria-label={`Move ${place} up`}
          onClick={() => onMove(-1)}
        >
          <IconArrowUp size={14} />
        </ActionIcon>
        <ActionIcon
          variant="subtle"
          color="gray"
          size="sm"
          disabled={last}
          aria-label={`Move ${place} down`}
          onClick={() => onMove(1)}
        >
          <IconArrowDown size={14} />
        </ActionIcon>
        <ActionIcon variant="subtle" color="gray" size="sm" aria-label={`Remove ${place}`} onClick={onRemove}>
          <IconX size={14} />
        </ActionIcon>
      </div>
    </div>
  );
}
