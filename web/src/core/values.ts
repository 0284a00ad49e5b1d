/** A field's value between its stored form, the text that the server reads, and the inputs that edit it. */
export interface FieldShape {
  key: string;
  label: string;
  type: string;
  currency: string | null;
  choices: string[];
}

export interface ListShape extends FieldShape {
  parts: FieldShape[];
}

type Money = { amount: string; currency: string };
export type Item = Record<string, string>;

const isMoney = (value: unknown): value is Money =>
  typeof value === "object" && value !== null && "amount" in value && "currency" in value;

/** The text of a stored value as an input holds it; blank is the empty text. */
export function inputText(value: unknown, type: string): string {
  if (value === null || value === undefined) return "";
  if (type === "yes_no") return value ? "yes" : "no";
  if (isMoney(value)) return value.amount;
  if (type === "date_time")
    return String(value)
      .replace("T", " ")
      .replace(/:\d\dZ$/, "Z");
  return String(value);
}

/** The records of a stored list as texts by part. */
export function itemsOf(value: unknown, parts: FieldShape[]): Item[] {
  if (!Array.isArray(value)) return [];
  return value.map((item: Record<string, unknown>) =>
    Object.fromEntries(parts.map((part) => [part.key, inputText(item[part.key], part.type)])),
  );
}

/** The text that the server reads as this list: a JSON array, whatever signs the texts hold. */
export function listText(items: Item[]): string {
  const filled = items
    .map((item) => Object.fromEntries(Object.entries(item).filter(([, text]) => text.trim() !== "")))
    .filter((item) => Object.keys(item).length > 0);
  return filled.length > 0 ? JSON.stringify(filled) : "";
}
