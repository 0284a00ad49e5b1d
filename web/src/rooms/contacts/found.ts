import type { Schemas } from "../../api";
import { foundBeside, type Known } from "../../core/table";
import { fieldValue } from "../../core/words";

/** What a search found a row by, where none of its columns shows it. */
export function besideOf(
  row: Schemas["ContactRow"],
  fields: Schemas["FieldView"][],
  shown: ReadonlySet<string>,
  search: string,
): Known | undefined {
  if (search.trim() === "") return undefined;
  const known: Known[] = [
    { key: "name", label: "Name", text: [row.first_name, row.last_name].filter(Boolean).join(" ") },
    { key: "address", label: "Address", text: row.address ?? "" },
    { key: "contact_no", label: "Contact no.", text: row.contact_no ?? "" },
    { key: "language", label: "Language", text: row.language ?? "" },
    { key: "tags", label: "Tags", text: row.tags.join(", ") },
    ...fields
      .filter((field) => !field.standard)
      .map((field) => ({
        key: field.key,
        label: field.label,
        text: fieldValue(row.record[field.key], field.type, field.parts[0]?.key),
      })),
  ];
  return foundBeside(known, shown, search);
}
