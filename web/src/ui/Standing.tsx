import { Button } from "@mantine/core";
import type { Standing as Stands } from "../core/drafts";
import classes from "./Standing.module.css";

interface StandingProps {
  standing: Stands;
  /** An instant as a time of day. */
  time: (iso: string) => string;
  onRetry?: () => void;
}

/** How it stands with what is edited: being saved, saved when, or why not. */
export function Standing({ standing, time, onRetry }: StandingProps) {
  const said = () => {
    switch (standing.kind) {
      case "same":
        return "";
      case "waiting":
      case "saving":
        return "saving …";
      case "saved":
        return `saved ${time(new Date(standing.at).toISOString())}`;
      case "failed":
        return "not saved: the server is not reached; tried again by itself";
      case "refused":
        return `not saved: ${standing.words}`;
      case "signed_out":
        return "not saved: you are signed out; sign in, and it goes on";
      case "clash":
        return "not saved: changed by two; decide below";
    }
  };
  const bad = !["same", "waiting", "saving", "saved"].includes(standing.kind);
  return (
    <span className={classes.standing} data-bad={bad || undefined} aria-live="polite">
      {said()}
      {standing.kind === "failed" && onRetry && (
        <Button size="compact-xs" onClick={onRetry}>
          Try now
        </Button>
      )}
    </span>
  );
}
