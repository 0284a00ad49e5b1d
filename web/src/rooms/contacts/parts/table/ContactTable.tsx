import { useQuery } from "@tanstack/react-query";
import { useVirtualizer } from "@tanstack/react-virtual";
import { type KeyboardEvent, type MouseEvent, useEffect, useRef, useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../../api";
import type { Column, ColumnKind } from "../../../../core/table";
import { isTicked, type Ticks, tickPage, tickRange, toggleTick } from "../../../../core/ticks";
import { count } from "../../../../core/words";
import { besideOf } from "../../found";
import { Cell } from "./Cell";
import classes from "./ContactTable.module.css";
import { HeadCell } from "./HeadCell";

type Row = Schemas["ContactRow"];

interface ContactTableProps {
  rows: Row[];
  /** How many match, loaded or not. */
  total: number;
  columns: Column[];
  kinds: ColumnKind[];
  /** The words that these rows were found by. */
  search: string;
  sort: string;
  ticks: Ticks;
  chosen: number | undefined;
  onChoose: (id: number) => void;
  onTicks: (ticks: Ticks) => void;
  onSort: (key: string) => void;
  onResize: (key: string, width: number) => void;
  /** More rows are wanted: the end of the loaded ones is near. */
  onMore: () => void;
}

const HEIGHT = 34;
const TICK_WIDTH = 38;

/** Contacts in rows; only those on screen are drawn. Arrows move, Enter opens, Space ticks, Shift ticks a stretch. */
export function ContactTable(props: ContactTableProps) {
  const { rows, total, columns, kinds, sort, ticks, chosen, onChoose, onTicks, onMore } = props;
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
  const order = rows.map((row) => row.id);
  const shown = new Set(columns.map((one) => one.key));
  useEffect(() => {
    if (last > rows.length - 30 && rows.length < total) onMore();
  }, [last, rows.length, total, onMore]);
  function tick(id: number, shift: boolean) {
    onTicks(shift ? tickRange(ticks, order, id) : toggleTick(ticks, id));
  }
  function press(event: KeyboardEvent) {
    if (event.target !== box.current) return;
    const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 15, PageUp: -15 }[event.key];
    const row = rows[at];
    if (step) {
      event.preventDefault();
      const next = Math.min(rows.length - 1, Math.max(0, at + step));
      setAt(next);
      virtual.scrollToIndex(next);
      const ahead = rows[next];
      if (event.shiftKey && ahead)
        onTicks(tickRange(ticks.anchor === null && row ? toggleTick(ticks, row.id) : ticks, order, ahead.id));
      else if (chosen !== undefined && ahead) onChoose(ahead.id);
    } else if (event.key === " " && row) {
      event.preventDefault();
      tick(row.id, event.shiftKey);
    } else if (event.key === "a" && (event.ctrlKey || event.metaKey)) {
      event.preventDefault();
      onTicks(tickPage({ ...ticks, ids: new Set() }, order));
    } else if (event.key === "Enter" && row) onChoose(row.id);
  }
  function click(event: MouseEvent, index: number, id: number) {
    setAt(index);
    // The keyboard goes on from where the mouse was.
    box.current?.focus({ preventScroll: true });
    if (event.shiftKey || event.ctrlKey || event.metaKey) tick(id, event.shiftKey);
    else onChoose(id);
  }
  // Each has at least its width, and its share of what there is beside.
  const template = `${TICK_WIDTH}px ${columns.map((one) => `minmax(${one.width}px, ${one.width}fr)`).join(" ")}`;
  const width = TICK_WIDTH + columns.reduce((sum, one) => sum + one.width, 0);
  const every = order.length > 0 && order.every((id) => isTicked(ticks, id));
  return (
    <div
      ref={box}
      className={classes.table}
      role="grid"
      aria-label="Contacts"
      aria-rowcount={total + 1}
      aria-multiselectable="true"
      tabIndex={0}
      onKeyDown={press}
    >
      <div
        className={classes.head}
        role="row"
        tabIndex={-1}
        style={{ gridTemplateColumns: template, minWidth: width }}
      >
        <div role="columnheader" tabIndex={-1} className={classes.tick}>
          <input
            type="checkbox"
            aria-label={`Tick the ${count(rows.length)} that are loaded`}
            checked={every}
            onChange={() => onTicks(tickPage(ticks, order))}
          />
        </div>
        {columns.map((column) => (
          <HeadCell
            key={column.key}
            column={column}
            kind={kinds.find((kind) => kind.key === column.key)}
            sort={sort}
            onSort={() => props.onSort(column.key)}
            onResize={(next) => props.onResize(column.key, next)}
          />
        ))}
      </div>
      <div style={{ height: virtual.getTotalSize(), position: "relative", minWidth: width }} role="rowgroup">
        {items.map((item) => {
          const row = rows[item.index];
          if (!row) return null;
          const ticked = isTicked(ticks, row.id);
          return (
            // biome-ignore lint/a11y/useKeyWithClickEvents: the grid itself takes the keys
            <div
              key={row.id}
              role="row"
              tabIndex={-1}
              aria-rowindex={item.index + 2}
              aria-selected={ticked}
              aria-current={row.id === chosen || undefined}
              className={classes.row}
              data-at={item.index === at || undefined}
              style={{
                transform: `translateY(${item.start}px)`,
                height: HEIGHT,
                gridTemplateColumns: template,
              }}
              onClick={(event) => click(event, item.index, row.id)}
            >
              <div role="gridcell" tabIndex={-1} className={classes.tick}>
                <input
                  type="checkbox"
                  tabIndex={-1}
                  aria-label={`Tick ${row.first_name ?? ""} ${row.last_name ?? row.address ?? ""}`}
                  checked={ticked}
                  readOnly
                  onClick={(event) => {
                    event.stopPropagation();
                    setAt(item.index);
                    box.current?.focus({ preventScroll: true });
                    tick(row.id, event.shiftKey);
                  }}
                />
              </div>
              {columns.map((column, index) => (
                <Cell
                  key={column.key}
                  row={row}
                  column={column.key}
                  vocabulary={vocabulary}
                  beside={
                    index === 0 ? besideOf(row, vocabulary?.fields ?? [], shown, props.search) : undefined
                  }
                />
              ))}
            </div>
          );
        })}
      </div>
    </div>
  );
}
