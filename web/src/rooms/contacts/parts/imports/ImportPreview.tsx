import { SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, useWords, vocabularyQuery } from "../../../../api";
import { count, fieldValue, people } from "../../../../core/words";
import { PeopleLinks, Trouble } from "../../../../ui";
import classes from "./ImportPreview.module.css";

type View = Schemas["ImportView"];

/** What a file would do, row by row, before anything is written. */
export function ImportPreview({ view }: { view: View }) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [chosen, setShown] = useState<"new" | "changed" | "refused">();
  const shown = chosen ?? (view.refused > 0 ? "refused" : view.changed > 0 ? "changed" : "new");
  const fields = vocabulary?.fields ?? [];
  const changes = Object.entries(view.changed_fields).sort((one, other) => other[1] - one[1]);
  return (
    <section aria-label="What it would do">
      {view.odd_domains.length > 0 && (
        <div className={classes.odd}>
          <Trouble tone="held">
            Some domains look mistyped; they are brought in as they are:{" "}
            {view.odd_domains
              .map(
                (one) =>
                  `${one.domain} in ${one.rows === 1 ? "1 row" : `${count(one.rows)} rows`} (${one.usual}?)`,
              )
              .join(", ")}
          </Trouble>
        </div>
      )}
      {view.notes?.map((note) => (
        <Trouble key={note} tone="held">
          {note}
        </Trouble>
      ))}
      {view.meets && <Meets meets={view.meets} />}
      {view.since && <Since since={view.since} />}
      <SegmentedControl
        aria-label="Rows to show"
        value={shown}
        onChange={(next) => setShown(next as typeof shown)}
        data={[
          { value: "new", label: `${count(view.new)} new` },
          { value: "changed", label: `${count(view.changed)} changed` },
          { value: "refused", label: `${count(view.refused)} refused` },
        ]}
      />
      <span className={`soft ${classes.same}`}>{count(view.same)} are the same and stay as they are</span>
      {shown === "changed" && changes.length > 0 && (
        <p className="soft">
          {changes.map(([key, n]) => `${labelOf(fields, key)} of ${people(n)}`).join(", ")}
        </p>
      )}
      <div className={classes.rows}>
        {shown === "new" && <NewRows view={view} fields={fields} />}
        {shown === "changed" && <ChangedRows view={view} fields={fields} />}
        {shown === "refused" && <RefusedRows view={view} />}
      </div>
    </section>
  );
}

/** Rows that would give somebody another's address, because their contact numbers are the same. */
function Meets({ meets }: { meets: Schemas["NumberMeets"] }) {
  const rows =
    meets.rows === 1 ? "1 row has a contact number" : `${count(meets.rows)} rows have contact numbers`;
  return (
    <Trouble>
      {rows} of somebody with another address, who would get the address of the row:{" "}
      {meets.examples
        .map(
          (one) =>
            `row ${one.row}, ${one.contact_no}: ${one.address}, but ${one.name} has ${one.their_address}`,
        )
        .join("; ")}
      . Are these really contact numbers?
    </Trouble>
  );
}

type Fields = Schemas["FieldView"][];
const typeOf = (fields: Fields, key: string) => fields.find((field) => field.key === key)?.type ?? "text";
const labelOf = (fields: Fields, key: string) => fields.find((field) => field.key === key)?.label ?? key;

function NewRows({ view, fields }: { view: View; fields: Fields }) {
  if (view.new === 0) return <p className="soft">Nobody in this file is new.</p>;
  return (
    <>
      {view.new_rows.map((row) => (
        <div key={row.row} className={classes.row}>
          <span className="faint">row {row.row}</span>
          <span>
            <b>
              <bdi>
                {[row.record.first_name, row.record.last_name].filter(Boolean).join(" ") || "no name"}
              </bdi>
            </b>{" "}
            {row.record.address ? (
              String(row.record.address)
            ) : (
              <span className={classes.held}>no address</span>
            )}
            <span className="soft">
              {Object.entries(row.record)
                .filter(([key]) => !["first_name", "last_name", "address"].includes(key))
                .map(([key, value]) => ` · ${fieldValue(value, typeOf(fields, key))}`)
                .join("")}
            </span>
          </span>
        </div>
      ))}
      {view.new > view.new_rows.length && <More rest={view.new - view.new_rows.length} />}
    </>
  );
}

function ChangedRows({ view, fields }: { view: View; fields: Fields }) {
  if (view.changed === 0) return <p className="soft">Nobody's record would change.</p>;
  return (
    <>
      {view.changed_rows.map((row) => (
        <div key={row.row} className={classes.row}>
          <span className="faint">row {row.row}</span>
          <span>
            <b>
              <bdi>{row.name || "no name"}</bdi>
            </b>
            {row.changes.map((change) => (
              <span key={change.field} className={classes.change}>
                {labelOf(fields, change.field)}:{" "}
                <s>{fieldValue(change.before, typeOf(fields, change.field)) || "blank"}</s> →{" "}
                <b>{fieldValue(change.after, typeOf(fields, change.field))}</b>
              </span>
            ))}
          </span>
        </div>
      ))}
      {view.changed > view.changed_rows.length && <More rest={view.changed - view.changed_rows.length} />}
    </>
  );
}

function RefusedRows({ view }: { view: View }) {
  if (view.refused === 0) return <p className="soft">No row is refused.</p>;
  return (
    <>
      {view.refusals.map((row) => (
        <div key={row.row} className={classes.row}>
          <span className="faint">row {row.row}</span>
          <span>
            <span className={classes.reason}>{row.message}</span>
            <span className={`mono soft ${classes.cells}`}>{row.cells.join(" | ")}</span>
          </span>
        </div>
      ))}
      {view.refused > view.refusals.length && <More rest={view.refused - view.refusals.length} />}
    </>
  );
}

function More({ rest }: { rest: number }) {
  return <p className="soft">and {count(rest)} more.</p>;
}

/** What differs in a live source from its last pull; those who are gone by name. */
function Since({ since }: { since: Schemas["SinceLast"] }) {
  const words = useWords();
  const rest = since.gone - since.gone_people.length;
  return (
    <div className={classes.since}>
      <p>
        Since the pull of {words.moment(since.at)}: <b>{count(since.new)}</b> new,{" "}
        <b>{count(since.changed)}</b> changed, <b>{count(since.gone)}</b> gone from the source.
      </p>
      {since.gone > 0 && (
        <p className="soft">
          Gone: <PeopleLinks people={since.gone_people} />
          {rest > 0 && ` and ${count(rest)} more`}. They stay contacts.
        </p>
      )}
    </div>
  );
}
