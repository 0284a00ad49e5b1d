import type { KeyboardEvent, PointerEvent } from "react";
import { type Column, type ColumnKind, NARROWEST, WIDEST } from "../../../../core/table";
import classes from "./HeadCell.module.css";

interface HeadCellProps {
  column: Column;
  kind: ColumnKind | undefined;
  sort: string;
  onSort: () => void;
  onResize: (width: number) => void;
}

/** A column's head: a click sorts, its right edge is drawn or moved by arrow keys. */
export function HeadCell({ column, kind, sort, onSort, onResize }: HeadCellProps) {
  const label = kind?.label ?? column.key;
  const sorted = sort === column.key ? "ascending" : sort === `-${column.key}` ? "descending" : undefined;
  function drag(event: PointerEvent<HTMLDivElement>) {
    const handle = event.currentTarget;
    const begin = event.clientX;
    // Columns share what the table has to spare, so that one may be wider on screen than it was made.
    const share = column.width / (handle.parentElement?.clientWidth || column.width);
    handle.setPointerCapture(event.pointerId);
    const move = (next: globalThis.PointerEvent) => onResize(column.width + (next.clientX - begin) * share);
    handle.addEventListener("pointermove", move);
    handle.addEventListener("pointerup", () => handle.removeEventListener("pointermove", move), {
      once: true,
    });
  }
  function press(event: KeyboardEvent) {
    const by = { ArrowLeft: -20, ArrowRight: 20 }[event.key];
    if (!by) return;
    event.preventDefault();
    onResize(column.width + by);
  }
  return (
    <div role="columnheader" tabIndex={-1} aria-sort={sorted} className={classes.head}>
      {kind?.sortable ? (
        <button type="button" className={classes.sort} onClick={onSort}>
          {label}
          <span aria-hidden="true">
            {sorted === "ascending" ? " ▲" : sorted === "descending" ? " ▼" : ""}
          </span>
        </button>
      ) : (
        label
      )}
      <div
        className={classes.edge}
        role="separator"
        aria-orientation="vertical"
        aria-label={`Width of ${label}`}
        aria-valuemin={NARROWEST}
        aria-valuemax={WIDEST}
        aria-valuenow={column.width}
        tabIndex={0}
        onPointerDown={drag}
        onKeyDown={press}
      />
    </div>
  );
}
