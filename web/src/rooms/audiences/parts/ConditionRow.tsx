import { ActionIcon, NativeSelect } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import type { Schemas } from "../../../api";
import { type Condition, type Node, newCondition, withOperator } from "../../../core/criteria";
import classes from "./ConditionRow.module.css";
import { ValueInputs } from "./ValueInputs";

interface ConditionRowProps {
  condition: Condition;
  denied: boolean;
  vocabulary: Schemas["Vocabulary"];
  /** The changed node; null removes the row. */
  onChange: (next: Node | null) => void;
}

/** One condition: a field, an operator that goes with it, and its values. */
export function ConditionRow({ condition, denied, vocabulary, onChange }: ConditionRowProps) {
  const field = vocabulary.fields.find((one) => one.key === condition.field);
  const able = vocabulary.operators.filter((row) => field && row.types.includes(field.type));
  const operator = able.find((row) => row.key === condition.operator);
  const today = new Date().toISOString().slice(0, 10);
  const say = (next: Condition) => onChange(denied ? { kind: "not", child: next } : next);
  return (
    <div className={classes.row}>
      {denied && <span className={classes.not}>not</span>}
      <NativeSelect
        size="xs"
        aria-label="Field"
        value={condition.field}
        data={[
          ...(field ? [] : [{ value: condition.field, label: `${condition.field}?` }]),
          ...vocabulary.fields.map((one) => ({ value: one.key, label: one.label })),
        ]}
        onChange={(event) => {
          const next = vocabulary.fields.find((one) => one.key === event.currentTarget.value);
          if (next) say(newCondition(next, vocabulary.operators, today));
        }}
      />
      {field && (
        <NativeSelect
          size="xs"
          aria-label="Operator"
          value={condition.operator}
          data={able.map((row) => ({ value: row.key, label: row.words || "is yes" }))}
          onChange={(event) => {
            const next = able.find((row) => row.key === event.currentTarget.value);
            if (next) say(withOperator(condition, next, field, today));
          }}
        />
      )}
      {field && operator && (
        <ValueInputs
          condition={condition}
          field={field}
          operands={operator.operands}
          onValues={(values) => say({ ...condition, values })}
        />
      )}
      <ActionIcon
        className={classes.remove}
        variant="subtle"
        color="gray"
        size="sm"
        aria-label={`Remove the condition on ${field?.label ?? condition.field}`}
        onClick={() => onChange(null)}
      >
        <IconX size={14} />
      </ActionIcon>
    </div>
  );
}
