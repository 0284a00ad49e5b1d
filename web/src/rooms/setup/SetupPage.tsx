import { useQuery } from "@tanstack/react-query";
import { vocabularyQuery, wordsOf } from "../../api";
import { PageHead, Trouble } from "../../ui";
import { CarePart } from "./parts/CarePart";
import { FieldsPart } from "./parts/FieldsPart";
import { RelayCard } from "./parts/RelayCard";
import { TopicsPart } from "./parts/TopicsPart";
import classes from "./SetupPage.module.css";

/** Relays, topics, fields, and who messages come from. */
export function SetupPage() {
  const { data: vocabulary, error } = useQuery(vocabularyQuery);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!vocabulary) return null;
  return (
    <div className={classes.page}>
      <PageHead title="Set-up" about={`${vocabulary.organisation}, ${vocabulary.time_zone}`} />
      <section>
        <h2>Relays</h2>
        {vocabulary.relays.map((relay) => (
          <RelayCard key={relay.id} relay={relay} />
        ))}
      </section>
      <TopicsPart vocabulary={vocabulary} />
      <CarePart />
      <FieldsPart fields={vocabulary.fields} />
      <section>
        <h2>Who messages come from</h2>
        {vocabulary.senders.map((sender) => (
          <div key={sender.id} className={classes.line}>
            <b>{sender.name}</b>
            <span className="soft">{sender.address}</span>
          </div>
        ))}
      </section>
    </div>
  );
}
