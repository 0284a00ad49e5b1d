import { ActionIcon, Button, Modal, NativeSelect, TagsInput, TextInput } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { keyOf, TYPE_WORDS } from "../../../core/fields";
import { count } from "../../../core/words";
import { Trouble } from "../../../ui";
import classes from "./FieldDialog.module.css";

type Draft = Schemas["FieldSave"];

interface FieldDialogProps {
  draft: Draft;
  /** The key of the field that is changed; without it a new one is made. */
  changing?: string | undefined;
  onClose: () => void;
  onDone: (key: string) => void;
}

export const NEW_FIELD: Draft = { key: "", label: "", type: "text", choices: [], parts: [], help: "" };

/** A field, new or changed. What would be lost by another type is shown before anything is changed. */
export function FieldDialog({ draft: begun, changing, onClose, onDone }: FieldDialogProps) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(begun);
  const [ownKey, setOwnKey] = useState(begun.key !== "");
  const [report, setReport] = useState<Schemas["RetypeReport"]>();
  function set(change: Partial<Draft>) {
    setReport(undefined);
    setDraft((old) => ({ ...old, ...change }));
  }
  const save = useMutation({
    mutationFn: async (lose: number | null) => {
      if (!changing) return take(client.POST("/api/fields", { body: draft }));
      const params = { params: { path: { key: changing } } };
      if (lose === null) {
        const found = await take(client.POST("/api/fields/{key}/preview", { ...params, body: draft }));
        if (found.lost > 0) {
          setReport(found);
          return null;
        }
      }
      await take(client.PUT("/api/fields/{key}", { ...params, body: { ...draft, lose: lose ?? 0 } }));
      return changing;
    },
    onSuccess: async (key) => {
      if (key === null) return;
      await queries.invalidateQueries();
      onDone(key);
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate(null);
  }
  return (
    <Modal opened onClose={onClose} size="lg" title={changing ? `Change ${begun.label}` : "New field"}>
      <form className={classes.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="Label"
          value={draft.label}
          onChange={(event) => {
            const label = event.currentTarget.value;
            set(changing || ownKey ? { label } : { label, key: keyOf(label) });
          }}
        />
        <Shape shape={draft} onShape={set} />
        {draft.type === "list" && <Parts parts={draft.parts ?? []} onParts={(parts) => set({ parts })} />}
        <TextInput
          label="What belongs in it"
          value={draft.help ?? ""}
          onChange={(event) => set({ help: event.currentTarget.value })}
        />
        {!changing && (
          <TextInput
            label="Key in criteria and messages"
            value={draft.key}
            onChange={(event) => {
              setOwnKey(true);
              set({ key: event.currentTarget.value });
            }}
          />
        )}
        {report && <Report report={report} />}
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <div className={classes.buttons}>
          <Button onClick={onClose}>Leave it</Button>
          {report ? (
            <Button
              color="red.9"
              variant="filled"
              loading={save.isPending}
              onClick={() => save.mutate(report.lost)}
            >
              Change it and lose {count(report.lost)} values
            </Button>
          ) : (
            <Button type="submit" variant="filled" loading={save.isPending}>
              {changing ? "Change the field" : "Make the field"}
            </Button>
          )}
        </div>
      </form>
    </Modal>
  );
}

function Report({ report }: { report: Schemas["RetypeReport"] }) {
  return (
    <Trouble tone="held">
      {count(report.fits)} values fit, {count(report.lost)} do not. Nothing is changed yet.
      <ul className={classes.misfits}>
        {report.misfits.slice(0, 8).map((one) => (
          <li key={one.contact_id}>
            <b>{one.name || "no name"}</b>: “{one.value}”
          </li>
        ))}
      </ul>
    </Trouble>
  );
}

interface ShapeProps {
  shape: { type: string; currency?: string | null; choices?: string[] };
  onShape: (change: { type?: string; currency?: string; choices?: string[] }) => void;
  /** A part of a list cannot be a list. */
  part?: boolean;
}

function Shape({ shape, onShape, part = false }: ShapeProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  return (
    <>
      <NativeSelect
        label="Type"
        value={shape.type}
        data={Object.entries(TYPE_WORDS)
          .filter(([type]) => !part || type !== "list")
          .map(([value, label]) => ({ value, label }))}
        onChange={(event) =>
          onShape({
            type: event.currentTarget.value,
            ...(event.currentTarget.value === "money" ? { currency: shape.currency ?? "EUR" } : {}),
          })
        }
      />
      {shape.type === "money" && (
        <NativeSelect
          label="Currency"
          value={shape.currency ?? "EUR"}
          data={vocabulary?.currencies ?? ["EUR"]}
          onChange={(event) => onShape({ currency: event.currentTarget.value })}
        />
      )}
      {shape.type === "choice" && (
        <TagsInput
          label="Choices"
          description="Enter after each"
          value={shape.choices ?? []}
          onChange={(choices) => onShape({ choices })}
        />
      )}
    </>
  );
}

function Parts({ parts, onParts }: { parts: Draft[]; onParts: (parts: Draft[]) => void }) {
  const put = (at: number, change: Partial<Draft>) =>
    onParts(parts.map((one, index) => (index === at ? { ...one, ...change } : one)));
  return (
    <fieldset className={classes.parts}>
      <legend>Each record has</legend>
      {parts.map((part, index) => (
        <div key={index} className={classes.part}>
          <TextInput
            label="Part"
            value={part.label}
            onChange={(event) => {
              const label = event.currentTarget.value;
              put(index, part.key === keyOf(part.label) ? { label, key: keyOf(label) } : { label });
            }}
          />
          <Shape part shape={part} onShape={(change) => put(index, change)} />
          <ActionIcon
            variant="subtle"
            color="gray"
            aria-label={`Remove the part ${part.label}`}
            onClick={() => onParts(parts.filter((_, at) => at !== index))}
          >
            <IconX size={16} />
          </ActionIcon>
        </div>
      ))}
      <Button size="compact-sm" onClick={() => onParts([...parts, { ...NEW_FIELD }])}>
        Add a part
      </Button>
    </fieldset>
  );
}
