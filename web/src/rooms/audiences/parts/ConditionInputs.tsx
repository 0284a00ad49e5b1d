import { NativeSelect } from "@mantine/core";
import type { Schemas } from "../../../api";
import { type Condition, withOperator } from "../../../core/criteria";
import { ValueInputs } from "./ValueInputs";

interface ConditionInputsProps {
  condition: Condition;
  field: Schemas["FieldView"];
  vocabulary: Schemas["Vocabulary"];
  onCondition: (next: Condition) => void;
}

/** An operator that goes with a field, and its values. */
export function ConditionInputs({ condition, field, vocabulary, onCondition }: ConditionInputsProps) {
  const able = vocabulary.operators.filter(
    (row) => row.types.includes(field.type) && !(condition.counted && row.operands === "none"),
  );
  const operator = able.find((row) => row.key === condition.operator);
  const today = new Date().toISOString().slice(0, 10);
  return (
    <>
      <NativeSelect
        size="xs"
        aria-label="Operator"
        value={condition.operator}
        data={able.map((row) => ({ value: row.key, label: row.words }))}
        onChange={(event) => {
          const next = able.find((row) => row.key === event.currentTarget.value);
          if (next) onCondition(withOperator(condition, next, field, today));
        }}
      />
      {operator && (
        <ValueInputs
          condition={condition}
          field={field}
          operands={operator.operands}
          onValues={(values) => onCondition({ ...condition, values })}
        />
      )}
    </>
  );
}
