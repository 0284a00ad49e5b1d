import { ActionIcon, NativeSelect } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import type { Schemas } from "../../../api";
import { type Leaf, type NameLists, type Node, newLeaf, subjectOf } from "../../../core/criteria";
import { AboutInputs } from "./AboutInputs";
import { ConditionInputs } from "./ConditionInputs";
import classes from "./LeafRow.module.css";
import { ListInputs, type Records } from "./ListInputs";

interface LeafRowProps {
  leaf: Leaf;
  denied: boolean;
  vocabulary: Schemas["Vocabulary"];
  /** What can be named besides fields; undefined within a list's brackets, where the parts are all there is. */
  names: NameLists | undefined;
  /** Rows for the conditions on a list's records: they are rows like these, over the list's parts. */
  records: Records;
  /** The changed node; null removes the row. */
  onChange: (next: Node | null) => void;
}

/** One condition: what it is about, and what is asked of it. */
export function LeafRow({ leaf, denied, vocabulary, names, records, onChange }: LeafRowProps) {
  const fields = names ? [...vocabulary.fields, ...vocabulary.asked_only] : vocabulary.fields;
  const today = new Date().toISOString().slice(0, 10);
  const subject = subjectOf(leaf);
  const field =
    leaf.kind === "condition" || leaf.kind === "items"
      ? fields.find((one) => one.key === leaf.field)
      : undefined;
  const say = (next: Leaf) => onChange(denied ? { kind: "not", child: next } : next);
  const groups = [
    { group: "Fields", items: fields.map((one) => ({ value: `field ${one.key}`, label: one.label })) },
    ...(names
      ? [
          {
            group: "Beyond the record",
            items: vocabulary.subjects.map(({ key, label }) => ({ value: key, label })),
          },
        ]
      : []),
  ];
  const beyond = vocabulary.subjects.find((one) => one.key === subject);
  const known = groups.some(({ items }) => items.some((item) => item.value === subject));
  const label = field?.label ?? beyond?.label ?? subject.replace("field ", "");
  return (
    <div className={classes.row}>
      {denied && <span className={classes.not}>not</span>}
      <NativeSelect
        size="xs"
        aria-label="What it is about"
        value={subject}
        data={known ? groups : [{ value: subject, label: `${label}?` }, ...groups]}
        onChange={(event) => {
          const next = newLeaf(
            event.currentTarget.value,
            fields,
            vocabulary.operators,
            names ?? NOTHING,
            today,
          );
          if (next) say(next);
        }}
      />
      {(leaf.kind === "condition" || leaf.kind === "items") &&
        field &&
        (field.type === "list" ? (
          <ListInputs leaf={leaf} field={field} vocabulary={vocabulary} records={records} onLeaf={say} />
        ) : (
          leaf.kind === "condition" && (
            <ConditionInputs condition={leaf} field={field} vocabulary={vocabulary} onCondition={say} />
          )
        ))}
      {leaf.kind !== "condition" && leaf.kind !== "items" && names && (
        <AboutInputs leaf={leaf} names={names} events={vocabulary.events} onLeaf={say} />
      )}
      <ActionIcon
        className={classes.remove}
        variant="subtle"
        color="gray"
        size="sm"
        aria-label={`Remove the condition on ${label}`}
        onClick={() => onChange(null)}
      >
        <IconX size={14} />
      </ActionIcon>
    </div>
  );
}

const NOTHING: NameLists = { topics: [], tags: [], campaigns: [], files: [], audiences: [] };
