import { Loader, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../../api";
import { type ColumnPick, confidenceWords, pickOf, withPick, withReading } from "../../../../core/imports";
import { Trouble } from "../../../../ui";
import { FieldDialog } from "../../../setup";
import type { ImportView } from "../../useImport";
import classes from "./ColumnCards.module.css";
import { ColumnDoubts } from "./ColumnDoubts";

interface ColumnCardsProps {
  view: ImportView;
  busy: boolean;
  onColumns: (columns: ColumnPick[]) => void;
  onKey: (key: string) => void;
}

/** What becomes of each column, with what stands in it and how sure the match is. */
export function ColumnCards({ view, busy, onColumns, onKey }: ColumnCardsProps) {
  const columns = view.columns;
  const keyed = columns.some((one) => one.field === "address" || one.field === "contact_no");
  const both =
    columns.some((one) => one.field === "address") && columns.some((one) => one.field === "contact_no");
  const [making, setMaking] = useState<number>();
  const proposal = making === undefined ? undefined : columns[making]?.proposal;
  return (
    <section aria-label="Columns">
      <h2>Columns {busy && <Loader size={13} />}</h2>
      {!keyed && <Trouble>Choose the column that holds the e-mail addresses or the contact numbers.</Trouble>}
      <div className={classes.cards}>
        {columns.map((column, index) => (
          <ColumnCard
            key={column.header || index}
            column={column}
            onPick={(choice) =>
              choice === "new" ? setMaking(index) : onColumns(withPick(columns, index, choice))
            }
            onReading={(change) => onColumns(withReading(columns, index, change))}
          />
        ))}
      </div>
      {both && (
        <NativeSelect
          className={classes.key ?? ""}
          size="xs"
          label="People are known by"
          value={view.key}
          data={[
            { value: "contact_no", label: "their contact number, else their address" },
            { value: "address", label: "their address" },
          ]}
          onChange={(event) => onKey(event.currentTarget.value)}
        />
      )}
      {making !== undefined && proposal && (
        <FieldDialog
          draft={{ ...proposal, parts: [], help: "" }}
          onClose={() => setMaking(undefined)}
          onDone={(key) => {
            setMaking(undefined);
            onColumns(withPick(columns, making, `field ${key}`));
          }}
        />
      )}
    </section>
  );
}

interface ColumnCardProps {
  column: Schemas["ColumnMatch"];
  onPick: (choice: string) => void;
  onReading: (change: Partial<ColumnPick>) => void;
}

const POLICIES = [
  { value: "overwrite", label: "overwrite" },
  { value: "fill", label: "fill where blank" },
  { value: "keep", label: "keep what is there" },
];

function ColumnCard({ column, onPick, onReading }: ColumnCardProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const told = confidenceWords(column.confidence, column.basis);
  return (
    <div className={classes.card} data-out={column.use === "leave_out" || undefined}>
      <b title={column.header}>{column.header || <span className="faint">no name</span>}</b>
      <span className={classes.samples}>{column.samples.join(" · ") || "blank"}</span>
      <NativeSelect
        size="xs"
        aria-label={`What becomes of ${column.header}`}
        value={pickOf(column)}
        data={[
          { value: "leave_out", label: "leave out" },
          ...(column.proposal ? [{ value: "new", label: `new field “${column.proposal.label}”…` }] : []),
          ...(vocabulary?.fields ?? []).map((field) => ({ value: `field ${field.key}`, label: field.label })),
          { value: "tags", label: "tags" },
          { value: "topics", label: "topics they opted in to" },
          { value: "audiences", label: "audiences to put them into" },
        ]}
        onChange={(event) => onPick(event.currentTarget.value)}
      />
      {told && <span className="faint">{told}</span>}
      <ColumnDoubts column={column} onPick={onPick} onReading={onReading} />
      {column.use === "field" && (
        <NativeSelect
          size="xs"
          aria-label={`For people who are there: ${column.header}`}
          value={column.policy}
          data={POLICIES}
          onChange={(event) => onReading({ policy: event.currentTarget.value })}
        />
      )}
    </div>
  );
}
