import { NativeSelect, TagsInput, TextInput } from "@mantine/core";
import { useState } from "react";
import type { Schemas } from "../../../api";
import {
  type Condition,
  type DayWay,
  dayFrom,
  dayWayOf,
  firstLiteral,
  type Literal,
  literalFrom,
  type Period,
  textOf,
  type Unit,
  withDayWay,
} from "../../../core/criteria";
import { same } from "../../../core/drafts";
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
    const texts = values.flatMap((value) => (value.kind === "text" && value.text ? [value.text] : []));
    return (
      <TagsInput
        size="xs"
        className={classes.tags}
        aria-label="Values"
        data={field.choices.length > 0 ? field.choices : field.samples}
        value={texts}
        error={texts.length === 0}
        // Without a value the condition holds for nobody, and is marked.
        onChange={(next) => onValues((next.length > 0 ? next : [""]).map((text) => ({ kind: "text", text })))}
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
      // What could not be read stands as it was typed; the text below says what is wrong with it.
      if (field.type === "number" || field.type === "money") {
        return <AmountInput value={value} field={field} onChange={onChange} />;
      }
      if (field.type === "date" || field.type === "date_time") {
        return <DayInput value={value} instants={field.type === "date_time"} onChange={onChange} />;
      }
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
          error={value.text.trim() === ""}
          placeholder={field.samples[0] ? `such as ${field.samples[0]}` : ""}
          onChange={(event) => onChange({ kind: "text", text: event.currentTarget.value })}
        />
      );
    case "number":
    case "money":
      return <AmountInput value={value} field={field} onChange={onChange} />;
    case "date":
    case "today":
    case "now":
      return <DayInput value={value} instants={field.type === "date_time"} onChange={onChange} />;
    case "period":
      return <PeriodInput value={value} onChange={onChange} />;
  }
}

interface AmountInputProps {
  value: Literal;
  field: Schemas["FieldView"];
  onChange: (next: Literal) => void;
}

/** A number or an amount, as it is typed; what is none is told as the text that it is. */
function AmountInput({ value, field, onChange }: AmountInputProps) {
  const [typed, setTyped] = useState<string>();
  const currency = field.type === "money" ? (field.currency ?? "EUR") : null;
  const shown = typed !== undefined && same(literalFrom(typed, currency), value) ? typed : textOf(value);
  return (
    <TextInput
      size="xs"
      w={currency ? 130 : 100}
      aria-label="Value"
      inputMode="decimal"
      value={shown}
      error={value.kind === "text"}
      rightSection={currency && <span className="faint">{currency}</span>}
      rightSectionWidth={currency ? 42 : 0}
      onChange={(event) => {
        setTyped(event.currentTarget.value);
        onChange(literalFrom(event.currentTarget.value, currency));
      }}
    />
  );
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
      {way === "day" && (
        <TextInput
          size="xs"
          type="date"
          aria-label="Value"
          value={value.kind === "date" ? value.day : ""}
          error={value.kind !== "date"}
          onChange={(event) => onChange(dayFrom(event.currentTarget.value))}
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
        min={0}
        max={600}
        value={value.count}
        whole
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
