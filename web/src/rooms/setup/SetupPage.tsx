import { useQuery } from "@tanstack/react-query";
import { vocabularyQuery, wordsOf } from "../../api";
import { count } from "../../core/words";
import { PageHead, Trouble } from "../../ui";
import { SenderCard } from "./parts/SenderCard";
import classes from "./SetupPage.module.css";

const TYPES: Record<string, string> = {
  text: "text",
  number: "number",
  money: "money",
  date: "date",
  yes_no: "yes or no",
  choice: "choice",
};

/** Relays, and what fields and topics there are. */
export function SetupPage() {
  const { data: vocabulary, error } = useQuery(vocabularyQuery);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!vocabulary) return null;
  return (
    <div className={classes.page}>
      <PageHead title="Set-up" about={`${vocabulary.organisation}, ${vocabulary.time_zone}`} />
      <section>
        <h2>Relays</h2>
        {vocabulary.senders.map((sender) => (
          <SenderCard key={sender.id} sender={sender} />
        ))}
      </section>
      <section>
        <h2>Topics</h2>
        {vocabulary.topics.map((topic) => (
          <div key={topic.key} className={classes.line}>
            <b>{topic.name}</b>
            <span className="soft">{topic.description}</span>
            <span className="mono soft">{topic.key}</span>
          </div>
        ))}
      </section>
      <section>
        <h2>Fields</h2>
        {vocabulary.fields.map((field) => (
          <div key={field.key} className={classes.line}>
            <b>{field.label}</b>
            <span className="soft">
              {TYPES[field.type] ?? field.type}
              {field.currency && `, ${field.currency}`}
              {field.choices.length > 0 && `: ${field.choices.join(", ")}`} · {count(field.blank)} blank
            </span>
            <span className="mono soft">{field.key}</span>
          </div>
        ))}
      </section>
      <section>
        <h2>Who messages come from</h2>
        {vocabulary.identities.map((identity) => (
          <div key={identity.id} className={classes.line}>
            <b>{identity.name}</b>
            <span className="soft">{identity.address}</span>
          </div>
        ))}
      </section>
    </div>
  );
}
