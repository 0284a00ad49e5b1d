import { useQuery } from "@tanstack/react-query";
import { type Schemas, useWords, vocabularyQuery } from "../../../../api";
import { changeWords } from "../../../../core/consent";
import { fieldValue } from "../../../../core/words";
import classes from "./PersonPanel.module.css";

/** What was changed in a person's record, when and by whom. */
export function HistoryPart({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  return (
    <section aria-label="History">
      {person.history.length === 0 && <p className="soft">Nothing was changed since they were added.</p>}
      {person.history.map((line) => (
        <div key={line.change_set_id} className={classes.line}>
          <span className="faint">{words.moment(line.at)}</span>
          <span>
            <b>{line.what}</b>
            <span className="soft">
              {line.by && ` by ${line.by}`}
              {line.undone && " · undone"}
            </span>
            {Object.entries(line.changes).map(([key, change]) => {
              const field = vocabulary?.fields.find((one) => one.key === key);
              const { before, after } = change as { before: unknown; after: unknown };
              const type = key === "tags" ? "tags" : (field?.type ?? "text");
              const label = key === "tags" ? "Tags" : (field?.label ?? key);
              const told = (value: unknown) => fieldValue(value, type, field?.parts[0]?.key);
              return <div key={key}>{changeWords(label, told(before), told(after))}</div>;
            })}
          </span>
        </div>
      ))}
    </section>
  );
}
