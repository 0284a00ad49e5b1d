import { Checkbox, Group, NativeSelect, TextInput } from "@mantine/core";
import type { SourceEdit } from "../../../../core/sources";
import classes from "./SourceForms.module.css";

const WEEKDAYS = ["Monday", "Tuesday", "Wednesday", "Thursday", "Friday", "Saturday", "Sunday"];

interface WhenFormProps {
  edit: SourceEdit;
  /** Somebody has looked at a pull and brought it in. */
  known: boolean;
  onEdit: (change: Partial<SourceEdit>) => void;
}

/** When it is pulled by itself, and what becomes of those who are gone from it. */
export function WhenForm({ edit, known, onEdit }: WhenFormProps) {
  return (
    <section className={classes.part} aria-label="When it is fetched">
      <h2>When it is fetched</h2>
      <Group gap={10} align="end">
        <NativeSelect
          label="By itself"
          value={edit.every}
          data={[
            { value: "", label: "Never, only by hand" },
            { value: "hour", label: "Every hour" },
            { value: "day", label: "Every day" },
            { value: "week", label: "Every week" },
          ]}
          onChange={(event) => onEdit({ every: event.currentTarget.value as SourceEdit["every"] })}
        />
        {edit.every === "week" && (
          <NativeSelect
            label="On"
            value={String(edit.weekday)}
            data={WEEKDAYS.map((label, value) => ({ value: String(value), label }))}
            onChange={(event) => onEdit({ weekday: Number(event.currentTarget.value) })}
          />
        )}
        {(edit.every === "day" || edit.every === "week") && (
          <TextInput
            type="time"
            label="At"
            value={edit.at}
            onChange={(event) => onEdit({ at: event.currentTarget.value })}
          />
        )}
        <Checkbox
          label="Before each run, so that what goes out is fresh"
          pb={8}
          checked={edit.before_runs}
          onChange={(event) => onEdit({ before_runs: event.currentTarget.checked })}
        />
      </Group>
      <TextInput
        label="Tag for people no longer in the source"
        description="They stay contacts, and their consent stays as it is. Blank: they are only counted."
        maw={460}
        value={edit.gone_tag}
        onChange={(event) => onEdit({ gone_tag: event.currentTarget.value })}
      />
      {!known && (edit.every !== "" || edit.before_runs) && (
        <p className="soft">
          Fetch it by hand and import its people once: what you choose for its columns then is done by itself
          from then on.
        </p>
      )}
    </section>
  );
}
