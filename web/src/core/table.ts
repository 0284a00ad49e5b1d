/** The contact table's columns and its order, without React. Nothing is changed in place. */
export interface Column {
  /** name, address, topics, tags, added, or a field's key. */
  key: string;
  /** In pixels. */
  width: number;
}

export interface ColumnKind {
  key: string;
  label: string;
  sortable: boolean;
}

export const NARROWEST = 60;
export const WIDEST = 800;

const WIDTHS: Record<string, number> = { name: 200, address: 240, topics: 210, tags: 150, added: 110 };

/** What can be a column: the table's own, and every field but the two that make the name. */
export function columnKinds(fields: { key: string; label: string }[]): ColumnKind[] {
  const own = fields.filter((field) => !["first_name", "last_name", "address"].includes(field.key));
  return [
    { key: "name", label: "Name", sortable: true },
    { key: "address", label: "Address", sortable: true },
    ...own.map((field) => ({ key: field.key, label: field.label, sortable: true })),
    { key: "topics", label: "Topics", sortable: false },
    { key: "tags", label: "Tags", sortable: false },
    { key: "added", label: "Added", sortable: true },
  ];
}

export const newColumn = (key: string): Column => ({ key, width: WIDTHS[key] ?? 120 });

/** The columns to begin with: the first choice and the first text of the organisation's own fields say most in a line. */
export function firstColumns(fields: { key: string; type: string; standard: boolean }[]): Column[] {
  const own = fields.filter((field) => !field.standard);
  const telling = ["choice", "text"].flatMap((type) => own.find((field) => field.type === type)?.key ?? []);
  return ["name", "address", ...telling, "topics", "tags"].map(newColumn);
}

/** With a column shown or hidden; the last one stays. */
export function toggleColumn(columns: Column[], key: string): Column[] {
  if (columns.some((one) => one.key === key)) {
    return columns.length > 1 ? columns.filter((one) => one.key !== key) : columns;
  }
  return [...columns, newColumn(key)];
}

/** With a column moved by a number of places, as far as there is room. */
export function moveColumn(columns: Column[], key: string, by: number): Column[] {
  const at = columns.findIndex((one) => one.key === key);
  const to = Math.min(columns.length - 1, Math.max(0, at + by));
  const moving = columns[at];
  if (!moving || to === at) return columns;
  const rest = columns.filter((one) => one.key !== key);
  return [...rest.slice(0, to), moving, ...rest.slice(to)];
}

/** With another width, within what can be read and what fits a screen. */
export function resizeColumn(columns: Column[], key: string, width: number): Column[] {
  const kept = Math.round(Math.min(WIDEST, Math.max(NARROWEST, width)));
  return columns.map((one) => (one.key === key ? { ...one, width: kept } : one));
}

/** The order after a click on a column's head: rising, then falling. */
export function nextSort(sort: string, key: string): string {
  return sort === key ? `-${key}` : key;
}

/** Columns that are still there; a field may have been removed since a view was saved. */
export function knownColumns(columns: Column[], kinds: ColumnKind[]): Column[] {
  const known = columns.filter((one) => kinds.some((kind) => kind.key === one.key));
  return known.length > 0 ? known : [newColumn("name"), newColumn("address")];
}

/** Something that is known of a person, as a text. */
export interface Known {
  key: string;
  label: string;
  text: string;
}

/** What a search found somebody by, where no column shows it: the first of it; nothing where the columns tell. */
export function foundBeside(known: Known[], shown: ReadonlySet<string>, search: string): Known | undefined {
  const fold = (text: string) => text.normalize("NFD").replace(/\p{M}/gu, "").toLowerCase();
  const has = (one: Known, word: string) => fold(one.text).includes(word);
  for (const word of fold(search).split(/\s+/).filter(Boolean)) {
    if (known.some((one) => shown.has(one.key) && has(one, word))) continue;
    const found = known.find((one) => has(one, word));
    if (found) return found;
  }
  return undefined;
}
