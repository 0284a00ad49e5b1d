import { useQuery } from "@tanstack/react-query";
import { useWords } from "../../../../api";
import { count } from "../../../../core/words";
import { importsQuery } from "../../queries";
import classes from "./ImportsDone.module.css";
import { UndoImport } from "./UndoImport";

/** The files that were brought in, each with its undo. */
export function ImportsDone() {
  const { data: lines } = useQuery(importsQuery);
  const words = useWords();
  if (!lines || lines.length === 0) return null;
  return (
    <section aria-label="Imported before">
      <h2>Imported before</h2>
      {lines.map((line) => (
        <div key={line.id} className={classes.line}>
          <span className="faint">{line.written_at && words.moment(line.written_at)}</span>
          <span>
            <b>{line.filename}</b> <span className="soft">{line.by && `by ${line.by}`}</span>
          </span>
          <span className="soft">
            {count(line.new)} new, {count(line.changed)} changed, {count(line.refused)} refused
          </span>
          <UndoImport id={line.id} undone={line.state === "undone"} size="compact-sm" />
        </div>
      ))}
    </section>
  );
}
