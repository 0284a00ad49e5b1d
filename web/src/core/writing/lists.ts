/** Blocks that go through a list of a person's own records. */
import type { Block, BlockOf } from "../content";
import type { components } from "../schema";
import { KINDS } from "./kinds";
import { variableFor } from "./options";

type Field = components["schemas"]["FieldView"];
type Column = BlockOf<"table">["columns"][number];

/** As many as the server takes. */
export const MOST_COLUMNS = 8;
/** More are put in by hand: they would not fit on a telephone. */
const FIRST_COLUMNS = 4;

/** A new block of a kind; one over a list goes through the first that there is. Undefined where there is none. */
export function freshBlock(kind: Block["kind"], id: string, fields: readonly Field[]): Block | undefined {
  const block = KINDS[kind].fresh(id);
  if (block.kind !== "table" && block.kind !== "buttons") return block;
  const list = fields.find((one) => one.type === "list");
  if (!list) return undefined;
  const over = { variable: variableFor(list.key, fields), listed: list.key };
  return block.kind === "table"
    ? { ...block, ...over, columns: columnsFor(over, fields) }
    : { ...block, ...over };
}

interface Over {
  variable: string;
  listed: string;
}

/** A column for each of the first parts of a list. */
export function columnsFor(over: Over, fields: readonly Field[]): Column[] {
  const parts = fields.find((one) => one.key === over.listed)?.parts ?? [];
  return parts.slice(0, FIRST_COLUMNS).map((part) => columnFor(over, part));
}

/** A column for a part: numbers stand at the right, and amounts have a sum. */
export function columnFor(over: Over, part: { key: string; label: string; type: string }): Column {
  return {
    title: part.label,
    value: `@{${over.variable}.${part.key}}`,
    total: part.type === "money" ? `@{sum(${over.listed}.${part.key})}` : "",
    align: part.type === "money" || part.type === "number" ? "end" : "start",
  };
}
