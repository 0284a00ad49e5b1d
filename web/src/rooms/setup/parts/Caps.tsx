import { NumberInput } from "@mantine/core";
import dialog from "./FieldDialog.module.css";

interface CapsProps {
  week: number | null;
  month: number | null;
  onWeek: (cap: number | null) => void;
  onMonth: (cap: number | null) => void;
  /** Of which mail, such as "of this topic". */
  of: string;
}

/** How many messages one person may get; an empty one is no cap. */
export function Caps({ week, month, onWeek, onMonth, of }: CapsProps) {
  const cap = (next: number | string) => (next === "" ? null : Number(next));
  return (
    <div className={dialog.part}>
      <NumberInput
        label={`Most messages ${of} to one person in 7 days`}
        placeholder="no cap"
        min={1}
        allowDecimal={false}
        value={week ?? ""}
        onChange={(next) => onWeek(cap(next))}
      />
      <NumberInput
        label="In 30 days"
        placeholder="no cap"
        min={1}
        allowDecimal={false}
        value={month ?? ""}
        onChange={(next) => onMonth(cap(next))}
      />
    </div>
  );
}

/** Caps in words, with a blank before them; nothing where there are none. */
export function capWords(week: number | null, month: number | null): string {
  const told = [week && `${week} in 7 days`, month && `${month} in 30 days`].filter(Boolean);
  return told.length === 0 ? "" : ` At most ${told.join(", ")}.`;
}
