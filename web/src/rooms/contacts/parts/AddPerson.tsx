import { Button, Modal, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, take, wordsOf } from "../../../api";
import { Trouble } from "../../../ui";
import classes from "./BulkDialog.module.css";

interface AddPersonProps {
  opened: boolean;
  onClose: () => void;
  onAdded: (id: number) => void;
}

const FIELDS = [
  ["first_name", "First name"],
  ["last_name", "Last name"],
  ["address", "E-mail address"],
  ["contact_no", "Contact no."],
] as const;

/** A person by hand; the rest is filled in beside the table. */
export function AddPerson({ opened, onClose, onAdded }: AddPersonProps) {
  const queries = useQueryClient();
  const [values, setValues] = useState<Record<string, string>>({});
  const add = useMutation({
    mutationFn: () => take(client.POST("/api/contacts", { body: { values } })),
    onSuccess: (id) => {
      queries.invalidateQueries({ queryKey: ["contacts"] });
      setValues({});
      onClose();
      onAdded(id);
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate();
  }
  return (
    <Modal opened={opened} onClose={onClose} title="Add a person">
      <form className={classes.form} onSubmit={submit}>
        {FIELDS.map(([key, label], index) => (
          <TextInput
            key={key}
            label={label}
            data-autofocus={index === 0 || undefined}
            value={values[key] ?? ""}
            onChange={(event) => setValues({ ...values, [key]: event.currentTarget.value })}
          />
        ))}
        <p className="soft">
          An address or a contact number is needed. Nobody is opted in to anything by this.
        </p>
        {add.error && <Trouble>{wordsOf(add.error)}</Trouble>}
        <div className={classes.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            type="submit"
            variant="filled"
            loading={add.isPending}
            disabled={!values.address?.trim() && !values.contact_no?.trim()}
          >
            Add
          </Button>
        </div>
      </form>
    </Modal>
  );
}
