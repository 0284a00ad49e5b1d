import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, useEffect, useRef, useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../api";
import { fieldValue } from "../../../core/words";
import classes from "./ContactTable.module.css";

type Row = Schemas["ContactRow"];
type Field = Schemas["FieldView"];

interface ContactTableProps {
  rows: Row[];
  /** How many there are, loaded or not. */
  total: number;
  chosen: number | undefined;
  onChoose: (id: number) => void;
  /** More rows are wanted: the end of the loaded ones is near. */
  onMore: () => void;
}

const HEIGHT = 34;

/** Contacts in rows; only those on screen are drawn. */
export function ContactTable({ rows, total, chosen, onChoose, onMore }: ContactTableProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const box = useRef<HTMLDivElement>(null);
  const [at, setAt] = useState(-1);
  const virtual = useVirtualizer({
    count: rows.length,
    getScrollElement: () => box.current,
    estimateSize: () => HEIGHT,
    overscan: 12,
  });
  const items = virtual.getVirtualItems();
  const last = items.at(-1)?.index ?? 0;
  useEffect(() => {
    if (last > rows.length - 30 && rows.length < total) onMore();
  }, [last, rows.length, total, onMore]);
  function press(event: KeyboardEvent) {
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    if (step) {
      event.preventDefault();
      const next = Math.min(rows.length - 1, Math.max(0, at + step));
      setAt(next);
      virtual.scrollToIndex(next);
      const row = rows[next];
      if (chosen !== undefined && row) onChoose(row.id);
    }
    const row = rows[at];
    if (event.key === "Enter" && row) onChoose(row.id);
  }
  const own = ownColumns(vocabulary?.fields ?? []);
  const topics = new Map(vocabulary?.topics.map((topic) => [topic.key, topic.name]));
  return (
    <div
      ref={box}
      className={classes.table}
      role="grid"
      aria-label="Contacts"
      aria-rowcount={total + 1}
      tabIndex={0}
      onKeyDown={press}
    >
      <div className={classes.head} role="row" tabIndex={-1}>
        {["Name", "Address", ...own.map((field) => field.label), "Topics"].map((name) => (
          <div key={name} role="columnheader" tabIndex={-1}>
            {name}
          </div>
        ))}
      </div>
      <div style={{ height: virtual.getTotalSize(), position: "relative" }} role="rowgroup">
        {items.map((item) => {
          const row = rows[item.index];
          return row ? (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the grid itself takes the keys
            <div
              key={row.id}
              role="row"
              tabIndex={-1}
              aria-rowindex={item.index + 2}
              aria-selected={row.id === chosen}
              className={classes.row}
              data-at={item.index === at || undefined}
              style={{ transform: `translateY(${item.start}px)`, height: HEIGHT }}
              onClick={() => {
                setAt(item.index);
                onChoose(row.id);
              }}
            >
              <Cells row={row} own={own} topics={topics} />
            </div>
          ) : null;
        })}
      </div>
    </div>
  );
}

const STANDARD = ["address", "first_name", "last_name", "language", "contact_no"];

/** The organisation's own fields that say most in a line: its first choice and its first text. */
function ownColumns(fields: Field[]): Field[] {
  const own = fields.filter((field) => !STANDARD.includes(field.key));
  return ["choice", "text"].flatMap((type) => own.find((field) => field.type === type) ?? []);
}

function Cells({ row, own, topics }: { row: Row; own: Field[]; topics: Map<string, string> }) {
  const name = [row.first_name, row.last_name].filter(Boolean).join(" ");
  return (
    <>
      <div role="gridcell" tabIndex={-1} className={classes.name}>
        <bdi>{name || <span className="faint">no name</span>}</bdi>
      </div>
      <div role="gridcell" tabIndex={-1}>
        {row.address ?? <span className={classes.held}>no address</span>}
        {row.suppressed && <span className={classes.held}> · suppressed</span>}
      </div>
      {own.map((field) => (
        <div key={field.key} role="gridcell" tabIndex={-1}>
          {fieldValue(row.record[field.key], field.type)}
        </div>
      ))}
      <div role="gridcell" tabIndex={-1} className="soft">
        {row.topics.map((key) => topics.get(key) ?? key).join(", ")}
      </div>
    </>
  );
}
