import { Button, NativeSelect } from "@mantine/core";
import type { Schemas } from "../../../../api";
import type { ColumnPick, DateOrder } from "../../../../core/imports";

interface ColumnDoubtsProps {
  column: Schemas["ColumnMatch"];
  onPick: (choice: string) => void;
  onReading: (change: Partial<ColumnPick>) => void;
}

const NOT_SAID = { value: "", label: "choose" };

/** What the cells of a column leave open: a person says it, nothing is guessed. */
export function ColumnDoubts({ column, onPick, onReading }: ColumnDoubtsProps) {
  const open = (doubt: Schemas["ColumnMatch"]["open"][number]) => column.open.includes(doubt);
  if (column.doubts.includes("contact_number") && column.use === "leave_out") {
    return (
      <Button size="compact-xs" variant="light" onClick={() => onPick("field contact_no")}>
        Is it the contact number? Use it
      </Button>
    );
  }
  return (
    <>
      {(column.doubts.includes("date_order") || column.date_order) && (
        <NativeSelect
          size="xs"
          label={column.date_order === "serial" ? "46174 is" : "03/04/2026 is"}
          error={open("date_order") && "Choose one"}
          value={column.date_order ?? ""}
          data={[
            NOT_SAID,
            { value: "dmy", label: "3 April" },
            { value: "mdy", label: "4 March" },
            { value: "serial", label: "46174 is a day of a spreadsheet" },
          ]}
          onChange={(event) =>
            onReading({ date_order: (event.currentTarget.value || null) as DateOrder | null })
          }
        />
      )}
      {column.doubts.includes("century") && (
        <NativeSelect
          size="xs"
          label="A year 58 is"
          error={open("century") && "Choose one"}
          value={column.century === null ? "" : String(column.century)}
          data={[NOT_SAID, { value: "1900", label: "1958" }, { value: "2000", label: "2058" }]}
          onChange={(event) => {
            const said = event.currentTarget.value;
            onReading({ century: said === "1900" ? 1900 : said === "2000" ? 2000 : null });
          }}
        />
      )}
      {(column.doubts.includes("decimal") || column.decimal_comma !== null) && (
        <NativeSelect
          size="xs"
          label="1,234 is"
          error={open("decimal") && "Choose one"}
          value={column.decimal_comma === null ? "" : String(column.decimal_comma)}
          data={[
            NOT_SAID,
            { value: "false", label: "one thousand and more" },
            { value: "true", label: "one and a little more" },
          ]}
          onChange={(event) =>
            onReading({
              decimal_comma: event.currentTarget.value ? event.currentTarget.value === "true" : null,
            })
          }
        />
      )}
    </>
  );
}
