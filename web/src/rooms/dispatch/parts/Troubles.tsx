import { type Schemas, useWords } from "../../../api";
import { count } from "../../../core/words";
import { Diamond } from "../../../ui";
import type { Only } from "./TracePanel";
import classes from "./Troubles.module.css";

const TROUBLE_STATES: Partial<Record<Schemas["DeliveryState"], "attention" | "bad">> = {
  deferred: "attention",
  refused: "bad",
  unknown: "bad",
};

/** What did not go as it should, by what it is; a line leads to its people. */
export function Troubles({ view, onOnly }: { view: Schemas["DispatchView"]; onOnly: (only: Only) => void }) {
  const words = useWords();
  if (view.troubles.length === 0 && view.held.length === 0) return <p className="soft">None.</p>;
  return (
    <div>
      {view.troubles.map((line) => (
        <button
          key={`${line.state} ${line.domain} ${line.words}`}
          type="button"
          className={classes.trouble}
          onClick={() => onOnly({ state: line.state, response: null, words: `the ${line.state}` })}
        >
          <Diamond state={TROUBLE_STATES[line.state] ?? "attention"} size={13} />
          <span>
            {count(line.people)} at <b>{line.domain}</b>: {line.words}
          </span>
          <span className="soft">{line.next_at ? `next ${words.seconds(line.next_at)}` : "show"}</span>
        </button>
      ))}
      {view.held.map((line) => (
        <button
          key={line.words}
          type="button"
          className={classes.trouble}
          onClick={() => onOnly({ state: "held", response: null, words: "those held back" })}
        >
          <Diamond state="attention" size={13} />
          <span>
            {count(line.people)} held back while this was going out: {line.words}
          </span>
          <span className="soft">show</span>
        </button>
      ))}
    </div>
  );
}
