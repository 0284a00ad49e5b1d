import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useWords, wordsOf } from "../../api";
import { evidenceWords, KIND_WORDS, STATE_WORDS } from "../../core/consent";
import { ButtonLink, Trouble } from "../../ui";
import { recordQuery } from "./queries";
import classes from "./RecordPage.module.css";

interface RecordPageProps {
  id: number;
  /** The day, as 2026-05-31; undefined: today. */
  asOf: string | undefined;
  onAsOf: (day: string | undefined) => void;
}

/** All that is known about a person, on one page that can be printed. */
export function RecordPage({ id, asOf, onAsOf }: RecordPageProps) {
  const { data: record, error } = useQuery(recordQuery(id, asOf));
  const words = useWords();
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!record) return null;
  const { person } = record;
  return (
    <div className={classes.page}>
      <div className={classes.tools}>
        <ButtonLink to="/contacts" search={{ person: id }}>
          Back
        </ButtonLink>
        <TextInput
          size="xs"
          type="date"
          label="As of"
          value={record.as_of}
          onChange={(event) => onAsOf(event.currentTarget.value || undefined)}
        />
        <span className={classes.room} />
        <Button component="a" href={`/api/contacts/${id}/record.json`} download>
          JSON
        </Button>
        <Button component="a" href={`/api/contacts/${id}/record.csv`} download>
          CSV
        </Button>
        <Button variant="filled" onClick={() => window.print()}>
          Print
        </Button>
      </div>
      <article className={classes.sheet}>
        <p className="soft">{record.organisation}</p>
        <h1>
          <bdi>{person.name || person.address || "No name"}</bdi>
        </h1>
        <p>
          What we know and what was agreed to, as of {words.day(`${record.as_of}T12:00:00Z`)}. Made{" "}
          {words.day(record.made_at)}, {words.time(record.made_at)}.
        </p>
        <h2>Topics</h2>
        <table>
          <thead>
            <tr>
              <th>Topic</th>
              <th>Standing</th>
              <th>Since</th>
              <th>Because</th>
            </tr>
          </thead>
          <tbody>
            {record.standings.map((one) => (
              <tr key={one.topic}>
                <td>{one.topic}</td>
                <td>
                  <b>{STATE_WORDS[one.state] ?? one.state}</b>
                </td>
                <td>{one.since && words.day(one.since)}</td>
                <td>
                  {one.kind && (KIND_WORDS[one.kind] ?? one.kind)}
                  {evidenceWords(one.evidence)}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        <h2>Record</h2>
        <dl className={classes.values}>
          {record.values.map((line) => (
            <div key={line.label}>
              <dt>{line.label}</dt>
              <dd>
                <bdi>{line.value}</bdi>
              </dd>
            </div>
          ))}
        </dl>
        <h2>Every entry of the ledger</h2>
        <table>
          <tbody>
            {person.ledger.map((line) => (
              <tr key={line.id}>
                <td>{words.moment(line.at)}</td>
                <td>{line.topic}</td>
                <td>
                  {KIND_WORDS[line.kind] ?? line.kind}
                  {evidenceWords(line.evidence)}
                  {line.recorded_by && ` · by ${line.recorded_by}`}
                </td>
              </tr>
            ))}
          </tbody>
        </table>
        {person.sent.length > 0 && <h2>Messages</h2>}
        <ul>
          {person.sent.map((line) => (
            <li key={line.delivery_id}>
              {words.moment(line.at)}: {line.campaign}, {line.state}
            </li>
          ))}
        </ul>
      </article>
    </div>
  );
}
