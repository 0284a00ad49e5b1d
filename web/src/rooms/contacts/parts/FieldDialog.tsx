import { Button, Modal, NativeSelect, TagsInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { TYPE_WORDS } from "../../../core/fields";
import { Trouble } from "../../../ui";
import classes from "./BulkDialog.module.css";

interface FieldDialogProps {
  draft: Schemas["FieldSave"];
  onClose: () => void;
  onMade: (key: string) => void;
}

/** A field for a column that fits none. */
export function FieldDialog({ draft: begun, onClose, onMade }: FieldDialogProps) {
  const queries = useQueryClient();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [draft, setDraft] = useState(begun);
  const set = (change: Partial<Schemas["FieldSave"]>) => setDraft((old) => ({ ...old, ...change }));
  const make = useMutation({
    mutationFn: () => take(client.POST("/api/fields", { body: draft })),
    onSuccess: async (key) => {
      await queries.invalidateQueries({ queryKey: vocabularyQuery.queryKey });
      onMade(key);
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate();
  }
  return (
    <Modal opened onClose={onClose} title="New field">
      <form className={classes.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="Label"
          value={draft.label}
          onChange={(event) => set({ label: event.currentTarget.value })}
        />
        <NativeSelect
          label="Type"
          value={draft.type}
          data={Object.entries(TYPE_WORDS)
            .filter(([type]) => type !== "list")
            .map(([value, label]) => ({ value, label }))}
          onChange={(event) => set({ type: event.currentTarget.value })}
        />
        {draft.type === "money" && (
          <NativeSelect
            label="Currency"
            value={draft.currency ?? "EUR"}
            data={vocabulary?.currencies ?? ["EUR"]}
            onChange={(event) => set({ currency: event.currentTarget.value })}
          />
        )}
        {draft.type === "choice" && (
          <TagsInput label="Choices" value={draft.choices ?? []} onChange={(choices) => set({ choices })} />
        )}
        <TextInput
          label="Key in criteria and messages"
          value={draft.key}
          onChange={(event) => set({ key: event.currentTarget.value })}
        />
        {make.error && <Trouble>{wordsOf(make.error)}</Trouble>}
        <div className={classes.buttons}>
          <Button onClick={onClose}>Leave it</Button>
          <Button type="submit" variant="filled" loading={make.isPending}>
            Make the field
          </Button>
        </div>
      </form>
    </Modal>
  );
}
