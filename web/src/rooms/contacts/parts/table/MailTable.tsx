import { Button, Group, Modal, NativeSelect, SegmentedControl, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, meQuery, renew, type Schemas, take, wordsOf } from "../../../../api";
import type { Column, ColumnKind } from "../../../../core/table";
import { people } from "../../../../core/words";
import { announce, Trouble } from "../../../../ui";
import { colleaguesQuery } from "../../queries";
import classes from "./BulkDialog.module.css";

interface MailTableProps {
  who: Schemas["Selected"];
  columns: Column[];
  kinds: ColumnKind[];
  onClose: () => void;
}

const TYPED = "";

/** Send those who are ticked to a colleague: a table in a message, and the same as a file. */
export function MailTable({ who, columns, kinds, onClose }: MailTableProps) {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const { data: colleagues } = useQuery(colleaguesQuery);
  const [chosen, setChosen] = useState<string>();
  const [typed, setTyped] = useState("");
  const [form, setForm] = useState("xlsx");
  const [note, setNote] = useState("");
  const shown = columns.filter((column) => kinds.some((kind) => kind.key === column.key));
  const to = chosen ?? me?.email ?? TYPED;
  const address = to === TYPED ? typed.trim() : to;
  const send = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/bulk/mail", {
          body: { who, columns: shown.map((column) => column.key), form, to_address: address, note },
        }),
      ),
    onSuccess: (sent) => {
      void renew(queries, { queryKey: ["contacts", "table-mails"] });
      announce(sent.words, { stays: 10_000, bad: !sent.accepted });
      if (sent.accepted) onClose();
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    send.mutate();
  }
  return (
    <Modal opened onClose={onClose} title={`Send to a colleague: ${people(who.seen)}`}>
      <form className={classes.form} onSubmit={submit}>
        <p className="soft">
          With the columns of the table: {shown.map((one) => kindOf(kinds, one.key)).join(", ")}. Who sent
          what to whom is written down.
        </p>
        <NativeSelect
          data-autofocus
          label="To"
          value={to}
          data={[
            ...(colleagues ?? []).map((one) => ({
              value: one.email,
              label: one.email === me?.email ? `Myself, ${one.email}` : `${one.name}, ${one.email}`,
            })),
            { value: TYPED, label: "Another address…" },
          ]}
          onChange={(event) => setChosen(event.currentTarget.value)}
        />
        {to === TYPED && (
          <TextInput
            label="Address"
            type="email"
            value={typed}
            onChange={(event) => setTyped(event.currentTarget.value)}
          />
        )}
        <SegmentedControl
          aria-label="Form of the attached file"
          data={[
            { value: "xlsx", label: "XLSX attached" },
            { value: "csv", label: "CSV attached" },
          ]}
          value={form}
          onChange={setForm}
        />
        <Textarea
          label="A word about it"
          autosize
          minRows={2}
          value={note}
          onChange={(event) => setNote(event.currentTarget.value)}
        />
        {send.error && <Trouble>{wordsOf(send.error)}</Trouble>}
        <Group gap={8} justify="flex-end" wrap="nowrap">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="filled" disabled={!address} loading={send.isPending}>
            {`Send ${people(who.seen)}`}
          </Button>
        </Group>
      </form>
    </Modal>
  );
}

const kindOf = (kinds: ColumnKind[], key: string) => kinds.find((kind) => kind.key === key)?.label ?? key;
