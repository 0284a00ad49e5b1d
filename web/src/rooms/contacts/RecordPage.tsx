import { Button, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { May, type Schemas, useWords, wordsOf } from "../../api";
import { ButtonLink, Page, PageHead, Trouble } from "../../ui";
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
  return (
    <Page gap={14}>
      <PageHead title="Record" about="all that is known about a person, to be printed or saved">
        <TextInput
          size="xs"
          type="date"
          aria-label="As of"
          value={record.as_of}
          onChange={(event) => onAsOf(event.currentTarget.value || undefined)}
        />
        <ButtonLink to="/contacts" search={{ person: id }}>
          Back
        </ButtonLink>
        <May be="export">
          <Button component="a" href={`/api/contacts/${id}/record.json?as_of=${record.as_of}`} download>
            JSON
          </Button>
          <Button component="a" href={`/api/contacts/${id}/record.csv?as_of=${record.as_of}`} download>
            CSV
          </Button>
        </May>
        <Button variant="filled" onClick={() => window.print()}>
          Print
        </Button>
      </PageHead>
      <article className={classes.sheet}>
        <p className="soft">{record.organisation}</p>
        <p className={classes.name}>
          <bdi>{record.name || "No name"}</bdi>
        </p>
        <p>
          What we know and what was agreed to, as of {words.day(`${record.as_of}T12:00:00Z`)}. Made{" "}
          {words.day(record.made_at)}, {words.time(record.made_at)}.
          {record.came_from && ` They came with ${record.came_from}.`}
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
                  <b>{one.state}</b>
                  {one.paused_until && ` until ${words.day(one.paused_until)}`}
                </td>
                <td>{one.since && words.day(one.since)}</td>
                <td>{one.because}</td>
              </tr>
            ))}
          </tbody>
        </table>
        <h2>Record</h2>
        {record.values.length === 0 && <p className="soft">Nothing was known on that day.</p>}
        <dl className={classes.values}>
          {record.values.map((line) => (
            <div key={line.label}>
              <dt>{line.label}</dt>
              <dd>
                <bdi>{line.value}</bdi>
              </dd>
            </div>
          ))}
          {record.tags.length > 0 && (
            <div>
              <dt>Tags</dt>
              <dd>{record.tags.join(", ")}</dd>
            </div>
          )}
        </dl>
        <Lines title="Every entry of the ledger" lines={record.consent} />
        <Lines title="Suppression" lines={record.suppression} />
        <Lines title="Messages" lines={record.messages} />
        <Lines title="Notes" lines={record.notes} />
      </article>
    </Page>
  );
}

function Lines({ title, lines }: { title: string; lines: Schemas["RecordLine"][] }) {
  const words = useWords();
  if (lines.length === 0) return null;
  return (
    <>
      <h2>{title}</h2>
      <table>
        <tbody>
          {lines.map((line, place) => (
            <tr key={`${line.at} ${place}`}>
              <td>
                {words.day(line.at)}, {words.time(line.at)}
              </td>
              <td>{line.about}</td>
              <td>
                {line.words}
                {line.evidence && ` · ${line.evidence}`}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}
