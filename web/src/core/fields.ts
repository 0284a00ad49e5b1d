/** The types of fields in words, in the order in which they are offered. */
export const TYPE_WORDS: Record<string, string> = {
  text: "text",
  number: "number",
  money: "money",
  date: "date",
  date_time: "date and time",
  yes_no: "yes or no",
  choice: "choice",
  list: "list of records",
};

/** A key from a label: lower-case letters, digits and _. */
export function keyOf(label: string): string {
  const plain = label
    .normalize("NFKD")
    .toLowerCase()
    .replace(/[\u0300-\u036f]/g, "")
    .replace(/[^a-z0-9]+/g, "_")
    .replace(/^_+|_+$/g, "");
  return /^[a-z]/.test(plain) ? plain.slice(0, 50) : plain ? `field_${plain}`.slice(0, 50) : "";
}
