import { CloseButton } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type Schemas, useWords, vocabularyQuery, wordsOf } from "../../../api";
import { fieldValue } from "../../../core/words";
import { Diamond, type DiamondState, Trouble } from "../../../ui";
import { personQuery } from "../queries";
import classes from "./PersonPanel.module.css";

const CONSENT: Record<string, { state: DiamondState; words: string }> = {
  subscribed: { state: "done", words: "opted in" },
  asked: { state: "half", words: "asked, no answer" },
  left: { state: "bad", words: "left" },
  never: { state: "later", words: "never asked" },
};

/** One person beside the table: their record, what they agreed to, what they were sent. */
export function PersonPanel({ id, onClose }: { id: number; onClose: () => void }) {
  const { data: person, error } = useQuery(personQuery(id));
  const { data: vocabulary } = useQuery(vocabularyQuery);
  return (
    <aside className={classes.panel} aria-label="Person">
      <header className={classes.head}>
        <h2>
          <bdi>{person?.name || person?.address || (person ? "No name" : "…")}</bdi>
        </h2>
        <CloseButton onClick={onClose} aria-label="Close the person" />
      </header>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {person && (
        <>
          {person.suppressed && (
            <Trouble tone="held">
              This address is suppressed ({person.suppressed.replace("_", " ")}): it gets nothing.
            </Trouble>
          )}
          <dl className={classes.record}>
            {(vocabulary?.fields ?? []).map((field) => {
              const value = fieldValue(person.record[field.key], field.type);
              return (
                <div key={field.key}>
                  <dt>{field.label}</dt>
                  <dd>{value ? <bdi>{value}</bdi> : <span className="faint">—</span>}</dd>
                </div>
              );
            })}
          </dl>
          <Topics person={person} />
          <Ledger person={person} />
          <Sent person={person} />
        </>
      )}
    </aside>
  );
}

function Topics({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  return (
    <section>
      <h2>Topics</h2>
      {person.topics.map((topic) => {
        const told = CONSENT[topic.state] ?? { state: "later" as const, words: topic.state };
        return (
          <div key={topic.key} className={classes.topic}>
            <Diamond state={told.state} size={13} />
            <span>{topic.name}</span>
            <span className="soft">
              {told.words}
              {topic.since ? ` ${words.day(topic.since)}` : ""}
            </span>
          </div>
        );
      })}
    </section>
  );
}

const KINDS: Record<string, string> = {
  imported: "opted in, brought in from a file",
  granted: "opted in",
  confirmed: "confirmed",
  asked: "asked",
  withdrawn: "left",
};

function Ledger({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  if (person.ledger.length === 0) return null;
  return (
    <section>
      <h2>Consent, as recorded</h2>
      {person.ledger.map((line, index) => (
        <div key={index} className={classes.line}>
          <span className="faint">{words.day(line.at)}</span>
          <span>
            <b>{line.topic}</b>: {KINDS[line.kind] ?? line.kind}
            <span className="soft">
              {[
                line.evidence.ground,
                line.evidence.wording,
                line.evidence.file,
                line.recorded_by && `by ${line.recorded_by}`,
              ]
                .filter(Boolean)
                .map((one) => ` · ${one}`)
                .join("")}
            </span>
          </span>
        </div>
      ))}
    </section>
  );
}

function Sent({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  return (
    <section>
      <h2>Sent to them</h2>
      {person.sent.length === 0 && <p className="soft">Nothing yet.</p>}
      {person.sent.map((line) => (
        <Link
          key={line.delivery_id}
          className={classes.line}
          to="/campaigns/$id"
          params={{ id: String(line.campaign_id) }}
          search={{ stop: "dispatch", run: line.run_id, trace: line.delivery_id }}
        >
          <span className="faint">{words.day(line.at)}</span>
          <span>
            {line.campaign} <span className="soft">· {line.state}</span>
          </span>
        </Link>
      ))}
    </section>
  );
}
