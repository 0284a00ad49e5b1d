import { memo } from "react";
import type { Schemas } from "../../../../api";
import type { Known } from "../../../../core/table";
import { fieldValue } from "../../../../core/words";
import classes from "./Cell.module.css";

interface CellProps {
  row: Schemas["ContactRow"];
  /** The column's key. */
  column: string;
  vocabulary: Schemas["Vocabulary"] | undefined;
  /** What a search found this person by, where no column shows it. */
  beside?: Known | undefined;
}

/** One cell of the contact table. */
export const Cell = memo(function Cell({ row, column, vocabulary, beside }: CellProps) {
  return (
    <div role="gridcell" tabIndex={-1} className={classes.cell} data-name={column === "name" || undefined}>
      <Content row={row} column={column} vocabulary={vocabulary} />
      {beside && (
        <span className={classes.beside} title={`${beside.label}: ${beside.text}`}>
          {" "}
          · {beside.text}
        </span>
      )}
    </div>
  );
});

const STATES: Record<string, string> = { asked: "asked", left: "left", paused: "paused" };

function Content({ row, column, vocabulary }: CellProps) {
  switch (column) {
    case "name": {
      const name = [row.first_name, row.last_name].filter(Boolean).join(" ");
      return <bdi>{name || <span className="faint">no name</span>}</bdi>;
    }
    case "address":
      return (
        <>
          {row.address ?? <span className={classes.held}>no address</span>}
          {row.suppressed && <span className={classes.held}> · suppressed</span>}
        </>
      );
    case "topics": {
      const names = new Map(vocabulary?.topics.map((topic) => [topic.key, topic.name]));
      return row.topics.map((topic, index) => (
        <span key={topic.key} className={topic.state === "subscribed" ? "soft" : "faint"}>
          {index > 0 && ", "}
          {topic.state === "left" ? <s>{names.get(topic.key)}</s> : names.get(topic.key)}
          {topic.state !== "subscribed" && ` (${STATES[topic.state] ?? topic.state})`}
        </span>
      ));
    }
    case "tags":
      return row.tags.map((tag) => (
        <span key={tag} className={classes.tag}>
          {tag}
        </span>
      ));
    case "added":
      return fieldValue(row.created_at.slice(0, 10), "date");
    case "language":
    case "contact_no":
      return row[column] ?? "";
    default: {
      const field = vocabulary?.fields.find((one) => one.key === column);
      return <bdi>{fieldValue(row.record[column], field?.type ?? "text", field?.parts[0]?.key)}</bdi>;
    }
  }
}
