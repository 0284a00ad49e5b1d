import { Button } from "@mantine/core";
import type { Schemas } from "../../../api";
import classes from "./CriteriaFault.module.css";

interface CriteriaFaultProps {
  text: string;
  problem: Schemas["ProblemView"];
  onText: (text: string) => void;
}

/** What is wrong with criteria: where, what, and what would do. */
export function CriteriaFault({ text, problem, onText }: CriteriaFaultProps) {
  const { start, end, suggestion } = problem;
  // Of a long stretch, such as a SELECT, its beginning tells where it is.
  const stretch = end - start > 48 ? `${text.slice(start, start + 48)}…` : text.slice(start, end) || "␣";
  return (
    <div className={classes.fault} role="alert">
      <span className="mono">
        {text.slice(Math.max(0, start - 24), start)}
        <mark>{stretch}</mark>
      </span>
      <span>{problem.message}</span>
      {suggestion && (
        <span>
          Did you mean <span className="mono">{suggestion}</span>?{" "}
          <Button size="compact-xs" onClick={() => onText(suggestion)}>
            Use it
          </Button>
        </span>
      )}
    </div>
  );
}
