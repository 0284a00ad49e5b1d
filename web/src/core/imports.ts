/** The columns of a file between what the server tells and what is chosen, without React. */
export type DateOrder = "ymd" | "dmy" | "mdy" | "serial";

export interface ColumnTold {
  header: string;
  use: string;
  field: string | null;
  date_order: DateOrder | null;
  century: number | null;
  decimal_comma: boolean | null;
  policy: string;
}

export interface ColumnPick {
  use: string;
  field: string | null;
  date_order: DateOrder | null;
  century: 1900 | 2000 | null;
  decimal_comma: boolean | null;
  policy: string;
}

/** What is chosen for each column now. */
export const columnPicks = (columns: ColumnTold[]): ColumnPick[] =>
  columns.map(({ use, field, date_order, century, decimal_comma, policy }) => ({
    use,
    field,
    date_order,
    century: century === 1900 || century === 2000 ? century : null,
    decimal_comma,
    policy,
  }));

/** The value of the column's picker: a field's key, or what else becomes of the column. */
export function pickOf(column: ColumnTold): string {
  return column.use === "field" ? `field ${column.field}` : column.use;
}

/** The picks with another choice for one column; a field that another column had goes over to this one. */
export function withPick(columns: ColumnTold[], at: number, choice: string): ColumnPick[] {
  const [use = "leave_out", field] = choice.split(" ");
  return columnPicks(columns).map((pick, index) => {
    if (index === at) return { ...pick, use, field: use === "field" ? (field ?? null) : null };
    return use === "field" && pick.field === field ? { ...pick, use: "leave_out", field: null } : pick;
  });
}

/** The picks with something else changed for one column. */
export function withReading(columns: ColumnTold[], at: number, change: Partial<ColumnPick>): ColumnPick[] {
  return columnPicks(columns).map((pick, index) => (index === at ? { ...pick, ...change } : pick));
}

/** A share from 0 to 1 in words. */
export function confidenceWords(confidence: number, basis: string): string {
  if (basis === "memory") return "as last time";
  if (basis === "chosen") return "your choice";
  if (basis === "nothing") return "";
  const share = `${Math.round(100 * confidence)} % sure`;
  return basis === "content" ? `${share}, by what stands in it` : `${share}, by its name`;
}

const DELIMITERS: Record<string, string> = { ",": "comma", ";": "semicolon", "\t": "tab", "|": "bar" };

/** A delimiter by its name. */
export const delimiterWords = (sign: string): string => DELIMITERS[sign] ?? sign;
