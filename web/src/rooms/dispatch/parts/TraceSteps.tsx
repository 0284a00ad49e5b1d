import { type Schemas, useWords } from "../../../api";
import { Diamond, type DiamondState } from "../../../ui";
import classes from "./TraceSteps.module.css";

const TONES: Record<string, DiamondState> = { good: "done", wait: "attention", bad: "bad", plain: "open" };

interface TraceStepsProps {
  trace: Schemas["TraceView"];
  /** Show so many, those that came last; all of them otherwise. */
  last?: number;
}

/** Everything that happened to one person in a run, in order. */
export function TraceSteps({ trace, last }: TraceStepsProps) {
  return (
    <ol className={classes.steps}>
      {trace.steps.slice(last === undefined ? 0 : -last).map((step, index) => (
        <Step key={index} step={step} />
      ))}
      {trace.state === "accepted" && (
        <li>
          <Diamond state="later" size={13} />
          <span className="faint">later</span>
          <span className="faint">what comes back will stand here</span>
        </li>
      )}
    </ol>
  );
}

function Step({ step }: { step: Schemas["TraceStep"] }) {
  const words = useWords();
  const today = step.at && words.day(step.at) === words.day(new Date().toISOString());
  return (
    <li>
      <Diamond state={TONES[step.tone] ?? "open"} size={13} />
      <time className="faint" dateTime={step.at ?? undefined}>
        {step.at ? (today ? words.seconds(step.at) : words.day(step.at)) : ""}
      </time>
      <span>
        {step.code && <span className={`mono ${classes.code}`}>{step.code}</span>}
        {step.words}
      </span>
    </li>
  );
}
