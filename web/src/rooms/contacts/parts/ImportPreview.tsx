import { Loader, NativeSelect, SegmentedControl } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../api";
import { count, fieldValue } from "../../../core/words";
import { Trouble } from "../../../ui";
import classes from "./ImportPreview.module.css";

type View = Schemas["ImportView"];

const ENCODINGS = [
  "utf-8",
  "windows-1252",
  "iso-8859-2",
  "windows-1250",
  "iso-8859-7",
  "shift_jis",
  "utf-16",
];

interface ImportPreviewProps {
  view: View;
  busy: boolean;
  onColumns: (columns: (string | null)[]) => void;
  onEncoding: (encoding: string) => void;
}

/** What a file would do, before anything is written. */
export function ImportPreview({ view, busy, onColumns, onEncoding }: ImportPreviewProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [shown, setShown] = useState<"new" | "changed" | "refused">(
    view.refused > 0 ? "refused" : view.changed > 0 ? "changed" : "new",
  );
  const fields = vocabulary?.fields ?? [];
  const columns = view.columns.map((column) => column.field);
  const keyed = columns.includes("address") || columns.includes("contact_no");
  return (
    <>
      {view.guessed_encoding && (
        <Trouble tone="held">
          This file is not written in UTF-8. It was read as{" "}
          <NativeSelect
            className={classes.inline}
            size="xs"
            aria-label="Encoding"
            data={ENCODINGS}
            value={view.encoding}
            onChange={(event) => onEncoding(event.currentTarget.value)}
          />
          . If names look wrong below, choose another encoding.
        </Trouble>
      )}
      {!keyed && <Trouble>Choose the column that holds the e-mail addresses or the contact numbers.</Trouble>}
      <section>
        <h2>Columns {busy && <Loader size={13} />}</h2>
        <div className={classes.columns}>
          {view.columns.map((column, index) => (
            <div
              key={column.header || index}
              className={classes.column}
              data-out={column.field === null || undefined}
            >
              <b title={column.header}>{column.header || <span className="faint">no name</span>}</b>
              <span className={classes.samples}>{column.samples.join(" · ") || "blank"}</span>
              <NativeSelect
                size="xs"
                aria-label={`Field for ${column.header}`}
                value={column.field ?? ""}
                data={[
                  { value: "", label: "leave out" },
                  ...fields.map((field) => ({
                    value: field.key,
                    label: field.label,
                    disabled: field.key !== column.field && columns.includes(field.key),
                  })),
                ]}
                onChange={(event) => {
                  const chosen = event.currentTarget.value || null;
                  onColumns(columns.map((key, at) => (at === index ? chosen : key)));
                }}
              />
            </div>
          ))}
        </div>
      </section>
      <section>
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
        <div className={classes.rows}>
          {shown === "new" && <NewRows view={view} fields={fields} />}
          {shown === "changed" && <ChangedRows view={view} fields={fields} />}
          {shown === "refused" && <RefusedRows view={view} />}
        </div>
      </section>
    </>
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
