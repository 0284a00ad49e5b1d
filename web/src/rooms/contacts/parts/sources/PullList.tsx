import { type Schemas, useWords } from "../../../../api";
import { CHANNEL_WORDS, pullWords } from "../../../../core/sources";
import { count } from "../../../../core/words";
import { Diamond } from "../../../../ui";
import classes from "./SourceForms.module.css";

/** What the pulls of a source found, latest first. */
export function PullList({ source }: { source: Schemas["SourceView"] }) {
  const words = useWords();
  return (
    <section aria-label="Fetch history">
      <h2>Fetch history</h2>
      {source.pulls.length === 0 && (
        <p className="soft">Never fetched yet. You will see what it brings before anything is written.</p>
      )}
      {source.under_way && <p role="status">It is being fetched now.</p>}
      {source.pulls.slice(0, 6).map((pull) => (
        <div key={pull.at} className={classes.line}>
          <span className="faint">{words.moment(pull.at)}</span>
          <span className="soft">{CHANNEL_WORDS[pull.channel] ?? pull.channel}</span>
          <span>
            <Diamond state={pull.fault ? "bad" : "done"} size={12} />{" "}
            {pull.fault ?? (pull.found && pullWords(pull.found))}
          </span>
          <span className="soft">
            {pull.import_id && pull.found
              ? `${count(pull.found.new)} contacts new, ${count(pull.found.changed)} changed`
              : "nothing written"}
          </span>
        </div>
      ))}
      {source.next_pull_at && <p className="soft">Fetched next: {words.moment(source.next_pull_at)}</p>}
    </section>
  );
}
