import { NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { type Schemas, vocabularyQuery } from "../../../../api";
import { outlookWords } from "../../../../core/consent";
import { people } from "../../../../core/words";
import classes from "./ConsentAsk.module.css";

interface ConsentAskProps {
  /** The topic's key; null: nothing is said about consent. */
  topic: string | null;
  legalBasis: string;
  outlook: Schemas["ConsentOutlook"] | null | undefined;
  /** How many rows name a topic in a column of their own, by the topic's key. */
  named: Record<string, number>;
  onTopic: (topic: string | null) => void;
  onLegalBasis: (legalBasis: string) => void;
}

/** Have these people opted in, to what, and how? Asked, never assumed. */
export function ConsentAsk({ topic, legalBasis, outlook, named, onTopic, onLegalBasis }: ConsentAskProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const told = Object.entries(named).map(([key, n]) => {
    const name = vocabulary?.topics.find((one) => one.key === key)?.name ?? key;
    return `${people(n)} to ${name}`;
  });
  const stated = topic !== null || told.length > 0;
  return (
    <section className={classes.ask}>
      <h2>Have these people opted in?</h2>
      <div className={classes.fields}>
        <NativeSelect
          label="Topic"
          value={topic ?? ""}
          onChange={(event) => onTopic(event.currentTarget.value || null)}
          data={[
            { value: "", label: "No, or I do not know" },
            ...(vocabulary?.topics ?? []).map((one) => ({ value: one.key, label: one.name })),
          ]}
        />
        <TextInput
          label="How did they agree?"
          placeholder="Signed the list at the open day, 14 June 2026"
          disabled={!stated}
          value={legalBasis}
          onChange={(event) => onLegalBasis(event.currentTarget.value)}
          required={stated}
        />
      </div>
      <p className="soft">
        {told.length > 0 && `By their column: ${told.join(", ")}. `}
        {topic === null
          ? told.length > 0
            ? ""
            : "They will be contacts, and no campaign will reach them until they opt in."
          : outlook
            ? outlookWords(outlook)
            : "What you write is kept with each person as evidence."}
      </p>
    </section>
  );
}
