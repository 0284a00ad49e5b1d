import { Button, Modal, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, take, wordsOf } from "../../../../api";
import { Trouble } from "../../../../ui";
import classes from "../table/BulkDialog.module.css";

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
  const address = values.address?.trim() ?? "";
  const [typed] = useDebouncedValue(address, 300);
  const { data: looked } = useQuery({
    queryKey: ["address", typed],
    queryFn: () => take(client.GET("/api/address", { params: { query: { text: typed } } })),
    enabled: opened && typed !== "",
  });
  const about = typed === address && address !== "" ? looked : undefined;
  const add = useMutation({
    mutationFn: () => take(client.POST("/api/contacts", { body: { values } })),
    onSuccess: (id) => {
      void renew(queries, "contacts");
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
        {about?.fault && <Trouble tone="held">{about.fault}</Trouble>}
        {about?.hints.map(({ code, suggestion }) => (
          <Trouble key={code} tone="held">
            {suggestion ? (
              <>
                The domain looks mistyped.{" "}
                <Button size="compact-xs" onClick={() => setValues({ ...values, address: suggestion })}>
                  Use {suggestion}
                </Button>
              </>
            ) : (
              "This is a mailbox of several people; not all of them may have opted in."
            )}
          </Trouble>
        ))}
        {about && about.same_address.length > 0 && (
          <Trouble tone="held">
            This address is there already: {about.same_address.map((one) => one.name || "no name").join(", ")}
            . Add them only if they share it.
          </Trouble>
        )}
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
