import { Button } from "@mantine/core";
import type { ReactNode } from "react";
import classes from "./Attachments.module.css";
import { useWriting } from "./context";

interface AttachmentRowProps {
  /** What it is, in a few letters. */
  kind: string;
  onTake: () => void;
  children: ReactNode;
}

/** An attachment of which there is more to say than its name. */
export function AttachmentRow({ kind, onTake, children }: AttachmentRowProps) {
  const { may } = useWriting();
  return (
    <div className={classes.row} data-entry>
      <span className={classes.kind}>{kind}</span>
      <div className={classes.entry}>{children}</div>
      {may && (
        <Button size="compact-xs" variant="subtle" onClick={onTake}>
          Remove
        </Button>
      )}
    </div>
  );
}
