import { Button, Popover, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, vocabularyQuery } from "../../../api";
import { count } from "../../../core/words";
import classes from "./FieldPicker.module.css";

interface FieldPickerProps {
  opened: boolean;
  onOpened: (opened: boolean) => void;
  onPick: (field: Schemas["FieldView"]) => void;
  /** The part that the field goes into. */
  into: string;
}

/** Choose a field to insert: with sample values, and how many people have none. */
export function FieldPicker({ opened, onOpened, onPick, into }: FieldPickerProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [wanted, setWanted] = useState("");
  const found = (vocabulary?.fields ?? []).filter((field) =>
    `${field.key} ${field.label}`.toLowerCase().includes(wanted.toLowerCase()),
  );
  function pick(field: Schemas["FieldView"] | undefined) {
    if (!field) return;
    setWanted("");
    onPick(field);
  }
  return (
    <Popover opened={opened} onChange={onOpened} position="bottom-start" width={420} trapFocus shadow="md">
      <Popover.Target>
        <Button variant="light" onClick={() => onOpened(!opened)} aria-haspopup="dialog">
          Insert a field <kbd className={classes.key}>@</kbd>
        </Button>
      </Popover.Target>
      <Popover.Dropdown>
        <TextInput
          data-autofocus
          size="xs"
          aria-label={`Field to insert into the ${into.startsWith("blocks") ? "block" : into}`}
          placeholder="Which field?"
          value={wanted}
          onChange={(event) => setWanted(event.currentTarget.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") pick(found[0]);
          }}
        />
        <div className={classes.list}>
          {found.map((field) => (
            <button key={field.key} type="button" className={classes.field} onClick={() => pick(field)}>
              <b>{field.label}</b>
              <span className="soft">{field.samples.map((one) => one.slice(0, 24)).join(", ")}</span>
              <span className={field.blank ? classes.blank : "faint"}>
                {field.blank ? `${count(field.blank)} blank` : "all have it"}
              </span>
            </button>
          ))}
          {found.length === 0 && <p className="soft">There is no such field.</p>}
        </div>
      </Popover.Dropdown>
    </Popover>
  );
}
