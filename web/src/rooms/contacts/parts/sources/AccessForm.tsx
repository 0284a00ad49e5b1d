import { Checkbox, Group, NativeSelect, PasswordInput, TextInput } from "@mantine/core";
import type { Schemas } from "../../../../api";
import { KIND_WORDS, type Kind, type SourceEdit, USUAL_PORTS } from "../../../../core/sources";
import { NumberField } from "../../../../ui";
import classes from "./SourceForms.module.css";

interface AccessFormProps {
  edit: SourceEdit;
  source: Schemas["SourceView"] | undefined;
  /** The SQLite files that may be read. */
  files: string[];
  onEdit: (change: Partial<SourceEdit>) => void;
}

/** Which database, and how it is reached. */
export function AccessForm({ edit, source, files, onEdit }: AccessFormProps) {
  const kinds = (Object.keys(KIND_WORDS) as Kind[]).filter(
    (kind) => kind !== "sqlite" || files.length > 0 || edit.kind === "sqlite",
  );
  return (
    <section className={classes.part} aria-label="The database">
      <h2>The database</h2>
      <Group gap={10} align="end">
        <TextInput
          label="What to call it"
          placeholder="Museum shop"
          value={edit.name}
          onChange={(event) => onEdit({ name: event.currentTarget.value })}
        />
        <NativeSelect
          label="Kind"
          value={edit.kind}
          data={kinds.map((kind) => ({ value: kind, label: KIND_WORDS[kind] }))}
          onChange={(event) => {
            const kind = event.currentTarget.value as Kind;
            onEdit({ kind, port: null, database: kind === "sqlite" ? (files[0] ?? "") : "" });
          }}
        />
        {edit.kind === "sqlite" ? (
          <NativeSelect
            label="File"
            value={edit.database}
            data={files.includes(edit.database) ? files : [edit.database, ...files]}
            onChange={(event) => onEdit({ database: event.currentTarget.value })}
          />
        ) : (
          <>
            <TextInput
              label="Host"
              placeholder="db.skarnmuseum.example"
              value={edit.host}
              onChange={(event) => onEdit({ host: event.currentTarget.value })}
            />
            <NumberField
              label="Port"
              w={90}
              min={1}
              max={65535}
              plain
              placeholder={String(USUAL_PORTS[edit.kind])}
              whole
              value={edit.port ?? null}
              onNumber={(port) => onEdit({ port })}
              onBlank={() => onEdit({ port: null })}
            />
            <TextInput
              label="Database"
              value={edit.database}
              onChange={(event) => onEdit({ database: event.currentTarget.value })}
            />
          </>
        )}
      </Group>
      {edit.kind !== "sqlite" && (
        <Group gap={10} align="end">
          <TextInput
            label="User"
            description="An account that may only read"
            autoComplete="off"
            value={edit.username}
            onChange={(event) => onEdit({ username: event.currentTarget.value })}
          />
          <PasswordInput
            label="Password"
            description="Kept encrypted, never shown again"
            w={230}
            autoComplete="new-password"
            placeholder={source?.has_password ? "stored; type to replace it" : ""}
            value={edit.password ?? ""}
            onChange={(event) => onEdit({ password: event.currentTarget.value })}
          />
          <Checkbox
            label="Encrypted, and its certificate verified (TLS)"
            pb={8}
            checked={edit.tls}
            onChange={(event) => onEdit({ tls: event.currentTarget.checked })}
          />
        </Group>
      )}
    </section>
  );
}
