import { Button, Modal, MultiSelect, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { announce, ConfirmButton, Empty, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import dialog from "./FieldDialog.module.css";
import { usersQuery } from "./queries";

type Sender = Schemas["SenderView"];

/** Who messages come from. */
export function SendersPart({ senders }: { senders: Sender[] }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState<Sender | "new">();
  const { data: users } = useQuery(usersQuery);
  const refresh = () => renew(queries, { queryKey: vocabularyQuery.queryKey });
  const remove = useMutation({
    mutationFn: (sender: Sender) =>
      take(client.DELETE("/api/senders/{sender_id}", { params: { path: { sender_id: sender.id } } })),
    onSuccess: refresh,
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  return (
    <section aria-label="Senders">
      <PageHead title="Senders">
        <Button onClick={() => setOpen("new")}>New sender</Button>
      </PageHead>
      {senders.length === 0 && (
        <Empty title="Nobody to write yet">A message comes from a sender: make one first.</Empty>
      )}
      {senders.map((sender) => (
        <div key={sender.id} className={classes.line}>
          <b>{sender.name}</b>
          <span className="soft">
            {sender.address}
            {sender.reply_to && `, answers go to ${sender.reply_to}`}
            {sender.users.length > 0 && `, released by ${namesOf(sender.users, users)} only`}
          </span>
          <span className={classes.acts}>
            <Button size="compact-xs" aria-label={`Change ${sender.name}`} onClick={() => setOpen(sender)}>
              Change
            </Button>
            <ConfirmButton
              size="compact-xs"
              words="Remove…"
              yes={`Remove ${sender.name}`}
              onYes={() => remove.mutateAsync(sender)}
            />
          </span>
        </div>
      ))}
      {open && (
        <SenderDialog
          users={users}
          sender={open === "new" ? undefined : open}
          onClose={() => setOpen(undefined)}
          onDone={() => {
            setOpen(undefined);
            void refresh();
          }}
        />
      )}
    </section>
  );
}

function namesOf(ids: number[], users: Schemas["UserLine"][] | undefined): string {
  return ids.map((id) => users?.find((one) => one.id === id)?.name ?? "…").join(", ");
}

interface DialogProps {
  users: Schemas["UserLine"][] | undefined;
  sender: Sender | undefined;
  onClose: () => void;
  onDone: () => void;
}

function SenderDialog({ users, sender, onClose, onDone }: DialogProps) {
  const [name, setName] = useState(sender?.name ?? "");
  const [address, setAddress] = useState(sender?.address ?? "");
  const [replyTo, setReplyTo] = useState(sender?.reply_to ?? "");
  const [signature, setSignature] = useState(sender?.signature ?? "");
  const [chosen, setChosen] = useState((sender?.users ?? []).map(String));
  const save = useMutation({
    mutationFn: () => {
      const body = {
        name,
        address,
        reply_to: replyTo,
        signature,
        users: chosen.map(Number),
        revision: sender?.revision ?? null,
      };
      return sender
        ? take(client.PUT("/api/senders/{sender_id}", { params: { path: { sender_id: sender.id } }, body }))
        : take(client.POST("/api/senders", { body }));
    },
    onSuccess: onDone,
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <Modal opened onClose={onClose} title={sender ? `Change ${sender.name}` : "New sender"}>
      <form className={dialog.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="Name"
          description={'What a mailbox shows; may hold a field, as in: Signe, for @{town else "the valley"}'}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <TextInput
          label="Address"
          value={address}
          onChange={(event) => setAddress(event.currentTarget.value)}
        />
        <TextInput
          label="Answers go to"
          description="May hold a field before the @"
          placeholder="the address itself"
          value={replyTo}
          onChange={(event) => setReplyTo(event.currentTarget.value)}
        />
        <Textarea
          label="Signature"
          description="What “sender signature” inserts into letters"
          autosize
          minRows={2}
          maxLength={1_000}
          value={signature}
          onChange={(event) => setSignature(event.currentTarget.value)}
        />
        <MultiSelect
          label="Who may release what comes from it"
          placeholder={chosen.length === 0 ? "everybody who may release" : undefined}
          data={(users ?? [])
            .filter((one) => !one.left_at)
            .map((one) => ({ value: String(one.id), label: one.name }))}
          value={chosen}
          onChange={setChosen}
        />
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            type="submit"
            variant="filled"
            disabled={!name.trim() || !address.trim()}
            loading={save.isPending}
          >
            Save the sender
          </Button>
        </div>
      </form>
    </Modal>
  );
}
