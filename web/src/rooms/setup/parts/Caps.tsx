import { NumberField } from "../../../ui";
import classes from "./Caps.module.css";

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
  return (
    <fieldset className={classes.caps}>
      <legend>One person gets at most, {of}</legend>
      <Cap days={7} cap={week} onCap={onWeek} />
      <Cap days={30} cap={month} onCap={onMonth} />
    </fieldset>
  );
}

function Cap({
  days,
  cap,
  onCap,
}: {
  days: number;
  cap: number | null;
  onCap: (cap: number | null) => void;
}) {
  return (
    <NumberField
      label={`in ${days} days`}
      placeholder="no cap"
      min={1}
      whole
      value={cap}
      onNumber={onCap}
      onBlank={() => onCap(null)}
    />
  );
}

/** Caps in words, with a blank before them; nothing where there are none. */
export function capWords(week: number | null, month: number | null): string {
  const told = [week && `${week} in 7 days`, month && `${month} in 30 days`].filter(Boolean);
  return told.length === 0 ? "" : ` At most ${told.join(", ")}.`;
}
