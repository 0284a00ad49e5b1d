import type { Schemas } from "../../../api";
import { count } from "../../../core/words";
import classes from "./BatchStrip.module.css";

type Cell = Schemas["BatchCell"];

const PARTS = ["waiting", "held", "unknown", "deferred", "refused", "accepted"] as const;
const WORDS = {
  waiting: "waiting",
  held: "held back",
  unknown: "unknown",
  deferred: "later",
  refused: "refused",
  accepted: "accepted",
} as const;

/** The batches in their order, a cell each, filled by outcome. */
export function BatchStrip({ batches }: { batches: Cell[] }) {
  const sum = (part: (typeof PARTS)[number]) => batches.reduce((total, cell) => total + cell[part], 0);
  const done = batches.filter((cell) => cell.waiting === 0 && cell.deferred === 0).length;
  return (
    <section>
      <header className={classes.head}>
        <h2>
          {count(done)} of {count(batches.length)} batches are through
        </h2>
        <div className={classes.legend}>
          {[...PARTS].reverse().map((part) => (
            <span key={part} data-none={sum(part) === 0 || undefined}>
              <i className={`${classes.key} ${part === "deferred" ? "hatch" : ""}`} data-part={part} />
              {count(sum(part))} {WORDS[part]}
            </span>
          ))}
        </div>
      </header>
      <div
        className={classes.strip}
        role="img"
        aria-label={PARTS.map((part) => `${sum(part)} ${WORDS[part]}`).join(", ")}
      >
        {batches.map((cell) => (
          <span
            key={cell.number}
            className={classes.cell}
            data-whole={cell.waiting === cell.size || undefined}
            title={`batch ${cell.number}: ${PARTS.filter((part) => cell[part] > 0)
              .map((part) => `${cell[part]} ${WORDS[part]}`)
              .join(", ")}`}
          >
            {PARTS.map((part) => (
              <i
                key={part}
                data-part={part}
                className={part === "deferred" ? "hatch" : undefined}
                style={{ height: `${(100 * cell[part]) / Math.max(1, cell.size)}%` }}
              />
            ))}
          </span>
        ))}
      </div>
    </section>
  );
}
