import { Button } from "@mantine/core";
import type { Schemas } from "../../../api";
import classes from "./Faults.module.css";

interface FaultsProps {
  problems: Schemas["PartProblemView"][];
  tooLong?: string | undefined;
  /** Take what is suggested instead of the whole part. */
  onUse?: (text: string) => void;
  /** Go to the place that one speaks of. */
  onGo?: (problem: Schemas["PartProblemView"]) => void;
}

/** What is wrong with a part, in words, with what could be taken instead. */
export function Faults({ problems, tooLong, onUse, onGo }: FaultsProps) {
  return (
    <>
      {tooLong && (
        <div className={classes.fault} role="alert">
          {tooLong}
        </div>
      )}
      {problems.map((one) => (
        <div
          key={`${one.part} ${one.problem.code} ${one.problem.start}`}
          className={classes.fault}
          role="alert"
        >
          <span>{one.problem.message}</span>
          {one.problem.suggestion && onUse && (
            <Button size="compact-xs" onClick={() => onUse(one.problem.suggestion ?? "")}>
              Use {one.problem.use}
            </Button>
          )}
          {onGo && (
            <Button size="compact-xs" onClick={() => onGo(one)}>
              Show
            </Button>
          )}
        </div>
      ))}
    </>
  );
}
