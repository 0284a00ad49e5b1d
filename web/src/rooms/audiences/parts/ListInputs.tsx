import { NativeSelect } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schemas } from "../../../api";
import {
  asGroup,
  type Condition,
  type Group,
  type Items,
  type Leaf,
  wayOf,
  withWay,
} from "../../../core/criteria";
import { ConditionInputs } from "./ConditionInputs";
import classes from "./LeafRow.module.css";

const WAYS = [
  { value: "any", label: "has any with" },
  { value: "every", label: "has only such with" },
  { value: "count", label: "how many" },
  { value: "blank", label: "is blank" },
  { value: "not_blank", label: "is not blank" },
];

/** Rows over a list's parts. */
export type Records = (parts: Schemas["Vocabulary"], root: Group, onRoot: (root: Group) => void) => ReactNode;

interface ListInputsProps {
  leaf: Condition | Items;
  field: Schemas["FieldView"];
  vocabulary: Schemas["Vocabulary"];
  records: Records;
  onLeaf: (next: Leaf) => void;
}

/** How a list is asked about: by its records, each with conditions of their own, or by how many there are. */
export function ListInputs({ leaf, field, vocabulary, records, onLeaf }: ListInputsProps) {
  const today = new Date().toISOString().slice(0, 10);
  const parts = field.parts.map((part) => ({ ...field, ...part, parts: [], samples: [] }));
  const scoped = { ...vocabulary, fields: parts, asked_only: [] };
  return (
    <>
      <NativeSelect
        size="xs"
        aria-label="How the list is asked about"
        value={wayOf(leaf)}
        data={WAYS}
        onChange={(event) =>
          onLeaf(withWay(leaf, event.currentTarget.value, parts, vocabulary.operators, today))
        }
      />
      {leaf.kind === "condition" && leaf.counted && (
        <ConditionInputs
          condition={leaf}
          field={{ ...field, type: "number", samples: [] }}
          vocabulary={vocabulary}
          onCondition={onLeaf}
        />
      )}
      {leaf.kind === "items" && (
        <div className={classes.records}>
          {records(scoped, asGroup(leaf.child), (child) => {
            // Without a condition there is nothing that could hold for a record.
            const [only] = child.children;
            if (only) onLeaf({ ...leaf, child: child.children.length === 1 ? only : child });
          })}
        </div>
      )}
    </>
  );
}
