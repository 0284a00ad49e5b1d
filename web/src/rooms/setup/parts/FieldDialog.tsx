import { ActionIcon, Button, Group, Modal, NativeSelect, Radio, TagsInput, TextInput } from "@mantine/core";
import { IconX } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, fetchFile, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { keyOf, TYPE_WORDS } from "../../../core/fields";
import { count } from "../../../core/words";
import { NumberField, Trouble } from "../../../ui";
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
  const [amounts, setAmounts] = useState<AmountsSaid>({ amounts: null, rate: null });
  const unsaid =
    !!report &&
    report.amounts > 0 &&
    (amounts.amounts === null || (amounts.amounts === "rate" && !amounts.rate));
  const save = useMutation({
    mutationFn: async (lose: number | null) => {
      if (!changing) return take(client.POST("/api/fields", { body: draft }));
      const params = { params: { path: { key: changing } } };
      if (lose === null) {
        const found = await take(client.POST("/api/fields/{key}/preview", { ...params, body: draft }));
        if (found.lost > 0 || found.amounts > 0) {
          setReport(found);
          return null;
        }
      }
      await take(
        client.PUT("/api/fields/{key}", { ...params, body: { ...draft, lose: lose ?? 0, ...amounts } }),
      );
      return changing;
    },
    onSuccess: async (key) => {
      if (key === null) return;
      await renew(queries);
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
          label="Help text"
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
        {report && report.lost > 0 && <Report report={report} field={changing ?? ""} draft={draft} />}
        {report && report.amounts > 0 && (
          <AmountsChoice
            report={report}
            from={begun.currency}
            to={draft.currency}
            said={amounts}
            onSaid={setAmounts}
          />
        )}
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <Group gap={8} justify="flex-end" wrap="nowrap">
          <Button onClick={onClose}>Cancel</Button>
          {report ? (
            <Button
              variant="filled"
              loading={save.isPending}
              disabled={unsaid}
              onClick={() => save.mutate(report.lost)}
            >
              {report.lost > 0 ? `Change the field; ${count(report.lost)} become blank` : "Change the field"}
            </Button>
          ) : (
            <Button type="submit" variant="filled" loading={save.isPending}>
              {changing ? "Change the field" : "Create the field"}
            </Button>
          )}
        </Group>
      </form>
    </Modal>
  );
}

interface ReportProps {
  report: Schemas["RetypeReport"];
  field: string;
  draft: Draft;
}

function Report({ report, field, draft }: ReportProps) {
  const file = useMutation({
    mutationFn: () => fetchFile(`/api/fields/${encodeURIComponent(field)}/misfits.csv`, draft),
  });
  return (
    <Trouble tone="held">
      {count(report.fits)} values fit, {count(report.lost)} do not. Nothing is changed yet; afterwards it can
      be undone in Recent changes.{" "}
      <Button size="compact-xs" loading={file.isPending} onClick={() => file.mutate()}>
        Export all {count(report.lost)} as CSV
      </Button>
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

interface AmountsSaid {
  amounts: "same" | "rate" | null;
  rate: number | null;
}

interface AmountsProps {
  report: Schemas["RetypeReport"];
  from: string | null | undefined;
  to: string | null | undefined;
  said: AmountsSaid;
  onSaid: (said: AmountsSaid) => void;
}

/** What becomes of amounts in another currency: nothing is assumed. */
function AmountsChoice({ report, from, to, said, onSaid }: AmountsProps) {
  return (
    <Radio.Group
      label={`${count(report.amounts)} amounts are in ${from}. What becomes of them?`}
      value={said.amounts}
      onChange={(next) => onSaid({ ...said, amounts: next as AmountsSaid["amounts"] })}
    >
      <Radio value="same" label={`The same numbers, in ${to}: 100 ${from} become 100 ${to}`} />
      <Radio value="rate" label={`Converted: each is multiplied by a rate, and rounded to the cent`} />
      {said.amounts === "rate" && (
        <NumberField
          label={`1 ${from} is so many ${to}`}
          min={0.000001}
          max={1000000}
          value={said.rate}
          onNumber={(rate) => onSaid({ ...said, rate })}
        />
      )}
    </Radio.Group>
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
          description="Press Enter after each choice"
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
