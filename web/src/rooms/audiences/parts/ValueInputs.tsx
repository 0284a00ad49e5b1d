import { NativeSelect, TagsInput, TextInput } from "@mantine/core";
import type { Schemas } from "../../../api";
import {
  type Condition,
  type DayWay,
  dayWayOf,
  firstLiteral,
  type Literal,
  type Period,
  type Unit,
  withDayWay,
} from "../../../core/criteria";
import { NumberField } from "../../../ui";
import classes from "./ValueInputs.module.css";

interface ValueInputsProps {
  condition: Condition;
  field: Schemas["FieldView"];
  operands: string;
  onValues: (values: Literal[]) => void;
}

/** The inputs for an operator's values, by the field's type. */
export function ValueInputs({ condition, field, operands, onValues }: ValueInputsProps) {
  const { values } = condition;
  const today = new Date().toISOString().slice(0, 10);
  if (operands === "none") return null;
  if (operands === "list" && (field.type === "choice" || field.type === "text")) {
    const texts = values.flatMap((value) => (value.kind === "text" ? [value.text] : []));
    return (
      <TagsInput
        size="xs"
        className={classes.tags}
        aria-label="Values"
        data={field.choices.length > 0 ? field.choices : field.samples}
        value={texts}
        onChange={(next) => {
          if (next.length > 0) onValues(next.map((text) => ({ kind: "text", text })));
        }}
      />
    );
  }
  const set = (index: number, next: Literal) =>
    onValues(values.map((old, at) => (at === index ? next : old)));
  return (
    <>
      {values.map((value, index) => (
        <span key={index} className={classes.value}>
          {index > 0 && <span className="soft">{operands === "two" ? "and" : "or"}</span>}
          <ValueInput value={value} field={field} onChange={(next) => set(index, next)} />
        </span>
      ))}
      {operands === "list" && (
        <button
          type="button"
          className={classes.more}
          onClick={() => onValues([...values, firstLiteral(field, operands, today)])}
        >
          or …
        </button>
      )}
    </>
  );
}

function ValueInput({
  value,
  field,
  onChange,
}: {
  value: Literal;
  field: Schemas["FieldView"];
  onChange: (next: Literal) => void;
}) {
  switch (value.kind) {
    case "text":
      if (field.choices.length > 0) {
        return (
          <NativeSelect
            size="xs"
            aria-label="Value"
            // A value that is no choice is what the text says, and is said to be wrong there.
            data={field.choices.includes(value.text) ? field.choices : [value.text, ...field.choices]}
            value={value.text}
            onChange={(event) => onChange({ kind: "text", text: event.currentTarget.value })}
          />
        );
      }
      return (
        <TextInput
          size="xs"
          aria-label="Value"
          value={value.text}
          placeholder={field.samples[0]}
          onChange={(event) => onChange({ kind: "text", text: event.currentTarget.value })}
        />
      );
    case "number":
    case "money":
      return (
        <NumberField
          size="xs"
          w={110}
          aria-label="Value"
          hideControls
          suffix={value.kind === "money" ? ` ${value.currency}` : ""}
          value={value.kind === "money" ? value.amount : value.number}
          onNumber={(_, text) =>
            onChange(value.kind === "money" ? { ...value, amount: text } : { kind: "number", number: text })
          }
        />
      );
    case "date":
    case "today":
    case "now":
      return <DayInput value={value} instants={field.type === "date_time"} onChange={onChange} />;
    case "period":
      return <PeriodInput value={value} onChange={onChange} />;
  }
}

interface DayInputProps {
  value: Literal;
  /** A moment can be meant as well as a day. */
  instants: boolean;
  onChange: (next: Literal) => void;
}

/** A day on the calendar, or by its distance from today. */
export function DayInput({ value, instants, onChange }: DayInputProps) {
  const today = new Date().toISOString().slice(0, 10);
  const way = dayWayOf(value);
  return (
    <span className={classes.value}>
      <NativeSelect
        size="xs"
        aria-label="How the day is given"
        value={way}
        data={[
          { value: "day", label: "the day" },
          { value: "today", label: "today" },
          { value: "after", label: "today +" },
          { value: "before", label: "today −" },
          ...(instants ? [{ value: "now", label: "now" }] : []),
        ]}
        onChange={(event) => onChange(withDayWay(value, event.currentTarget.value as DayWay, today))}
      />
      {value.kind === "date" && (
        <TextInput
          size="xs"
          type="date"
          aria-label="Value"
          value={value.day}
          onChange={(event) => {
            if (event.currentTarget.value) onChange({ kind: "date", day: event.currentTarget.value });
          }}
        />
      )}
      {value.kind === "today" && value.count !== 0 && (
        <PeriodInput
          value={{ kind: "period", count: Math.abs(value.count), unit: value.unit }}
          onChange={({ count, unit }) =>
            onChange({ kind: "today", count: Math.sign(value.count) * Math.max(1, count), unit })
          }
        />
      )}
    </span>
  );
}

/** So many days, weeks or months. */
export function PeriodInput({ value, onChange }: { value: Period; onChange: (next: Period) => void }) {
  return (
    <span className={classes.value}>
      <NumberField
        size="xs"
        w={70}
        aria-label="How many"
        hideControls
        min={0}
        max={600}
        value={value.count}
        allowDecimal={false}
        onNumber={(count) => onChange({ ...value, count })}
      />
      <NativeSelect
        size="xs"
        aria-label="Unit"
        data={["days", "weeks", "months"]}
        value={value.unit}
        onChange={(event) => onChange({ ...value, unit: event.currentTarget.value as Unit })}
      />
    </span>
  );
}
