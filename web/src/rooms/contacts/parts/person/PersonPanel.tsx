import { CloseButton, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { May, MayChange, type Schemas, useWords, wordsOf } from "../../../../api";
import { Trouble } from "../../../../ui";
import { personQuery } from "../../queries";
import { AddressHints } from "./AddressHints";
import { ConsentPart } from "./ConsentPart";
import { HistoryPart } from "./HistoryPart";
import classes from "./PersonPanel.module.css";
import { RecordPart } from "./RecordPart";
import { SuppressionPart } from "./SuppressionPart";
import { Verification } from "./Verification";

const PARTS = ["Record", "Consent", "Mail", "History"];

/** One person beside the table: their record, what they agreed to, what they were sent, and what was changed. */
export function PersonPanel({ id, onClose }: { id: number; onClose: () => void }) {
  const { data: person, error } = useQuery(personQuery(id));
  const [part, setPart] = useState("Record");
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
          <SuppressionPart person={person} offer={false} />
          <MayChange be="contacts">
            <AddressHints person={person} />
            <Verification person={person} />
          </MayChange>
          {person.same_address.length > 0 && (
            <p className={classes.note}>
              Same address:{" "}
              {person.same_address.map((other, index) => (
                <span key={other.id}>
                  {index > 0 && ", "}
                  <Link to="/contacts" search={(old) => ({ ...old, person: other.id })}>
                    <bdi>{other.name || "no name"}</bdi>
                  </Link>
                </span>
              ))}{" "}
              <May be="contacts">
                <Link to="/contacts/duplicates">Merge…</Link>
              </May>
            </p>
          )}
          <SegmentedControl
            fullWidth
            size="xs"
            aria-label="What to see of the person"
            data={PARTS}
            value={part}
            onChange={setPart}
          />
          {part === "Record" && <RecordPart person={person} />}
          {part === "Consent" && (
            <>
              <ConsentPart person={person} />
              {person.suppressions.length === 0 && (
                <May be="contacts">
                  <SuppressionPart person={person} offer />
                </May>
              )}
            </>
          )}
          {part === "Mail" && <Sent person={person} />}
          {part === "History" && <HistoryPart person={person} />}
        </>
      )}
    </aside>
  );
}

function Sent({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  return (
    <section aria-label="Sent to them">
      {person.sent.length === 0 && person.printed.length === 0 && (
        <p className="soft">Nothing was sent to them yet.</p>
      )}
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
            <b>{line.campaign}</b>{" "}
            <span className="soft">
              · {line.state}
              {line.came.map((kind) => ` · ${kind}`)}
            </span>
          </span>
        </Link>
      ))}
      {person.printed.map((line) => (
        <Link
          key={`${line.campaign_id} ${line.at}`}
          className={classes.line}
          to="/campaigns/$id"
          params={{ id: String(line.campaign_id) }}
          search={{ stop: "paper" }}
        >
          <span className="faint">{words.day(line.at)}</span>
          <span>
            <b>{line.campaign}</b> <span className="soft">· printed, a letter on paper</span>
          </span>
        </Link>
      ))}
    </section>
  );
}
