import { NativeSelect } from "@mantine/core";
import { variableFor } from "../../../core/writing";
import { useWriting } from "./context";
import classes from "./ListChooser.module.css";

export interface Over {
  variable: string;
  listed: string;
  order: string;
}

/** Which of a person's lists is gone through, and in which order. */
export function ListChooser({ over, onOver }: { over: Over; onOver: (over: Over) => void }) {
  const { vocabulary } = useWriting();
  const lists = vocabulary.fields.filter((one) => one.type === "list");
  const list = lists.find((one) => one.key === over.listed);
  return (
    <span className={classes.over}>
      for each of their
      <NativeSelect
        size="xs"
        aria-label="List"
        value={over.listed}
        data={[
          ...(list ? [] : [{ value: over.listed, label: over.listed || "choose a list" }]),
          ...lists.map((one) => ({ value: one.key, label: one.label })),
        ]}
        onChange={(event) => {
          const listed = event.currentTarget.value;
          onOver({ variable: over.variable || variableFor(listed, vocabulary.fields), listed, order: "" });
        }}
      />
      <NativeSelect
        size="xs"
        aria-label="Order"
        value={over.order}
        data={[
          { value: "", label: "in their own order" },
          ...(list?.parts ?? []).map((part) => ({ value: part.key, label: `by ${part.label}` })),
        ]}
        onChange={(event) => onOver({ ...over, order: event.currentTarget.value })}
      />
    </span>
  );
}
