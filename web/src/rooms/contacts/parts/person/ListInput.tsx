import { ActionIcon, Button } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { useState } from "react";
import type { Item, ListShape } from "../../../../core/values";
import classes from "./ListInput.module.css";
import { PlainInput } from "./PlainInput";

interface ListInputProps {
  field: ListShape;
  items: Item[];
  onItems: (items: Item[]) => void;
}

/** The records of a list, a line of inputs for each. */
export function ListInput({ field, items: given, onItems }: ListInputProps) {
  // A record without a word yet stands here alone: what is kept has none.
  const [items, setItems] = useState(given.length > 0 ? given : [{}]);
  function put(next: Item[]) {
    setItems(next);
    onItems(next);
  }
  return (
    <div className={classes.list}>
      {items.map((item, index) => (
        <fieldset key={index} className={classes.item}>
          <legend className="faint">
            {field.label} {index + 1}
          </legend>
          {field.parts.map((part) => (
            <PlainInput
              key={part.key}
              label={part.label}
              field={part}
              text={item[part.key] ?? ""}
              onText={(text) =>
                put(items.map((one, at) => (at === index ? { ...one, [part.key]: text } : one)))
              }
            />
          ))}
          <ActionIcon
            variant="subtle"
            color="gray"
            size="sm"
            aria-label={`Remove ${field.label} ${index + 1}`}
            onClick={() => put(items.filter((_, at) => at !== index))}
          >
            <IconX size={14} />
          </ActionIcon>
        </fieldset>
      ))}
      <Button size="compact-xs" onClick={() => setItems([...items, {}])}>
        Add one
      </Button>
    </div>
  );
}
