import { Button, Checkbox, Modal, NativeSelect, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { keyOf } from "../../../core/fields";
import { moved } from "../../../core/order";
import { announce, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import { Caps, capWords } from "./Caps";
import dialog from "./FieldDialog.module.css";
import { MoveButtons } from "./MoveButtons";

type Topic = Schemas["TopicView"];

/** What people subscribe to. */
export function TopicsPart({ vocabulary }: { vocabulary: Schemas["Vocabulary"] }) {
  const queries = useQueryClient();
  const [open, setOpen] = useState<Topic | "new">();
  const refresh = () => renew(queries, { queryKey: vocabularyQuery.queryKey });
  const remove = useMutation({
    mutationFn: (topic: Topic) =>
      take(client.DELETE("/api/topics/{topic_id}", { params: { path: { topic_id: topic.id } } })),
    onSuccess: refresh,
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  const order = useMutation({
    mutationFn: (ids: number[]) => take(client.POST("/api/topics-order", { body: { ids } })),
    onSuccess: refresh,
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  const from = (id: number | null) => vocabulary.senders.find((one) => one.id === id)?.name;
  return (
    <section aria-label="Topics">
      <PageHead title="Topics">
        <Button onClick={() => setOpen("new")}>New topic</Button>
      </PageHead>
      {vocabulary.topics.map((topic) => (
        <div key={topic.key} className={classes.line}>
          <b>{topic.name}</b>
          <span className="soft">
            {topic.description}
            {from(topic.sender_id) && ` From ${from(topic.sender_id)}.`}
            {topic.double_opt_in && " Double opt-in."}
            {capWords(topic.week_cap, topic.month_cap)} <span className="mono">{topic.key}</span>
          </span>
          <span className={classes.acts}>
            <MoveButtons
              label={topic.name}
              onMove={(by) => order.mutate(moved(vocabulary.topics, topic, by).map((one) => one.id))}
            />
            <Button size="compact-xs" aria-label={`Change ${topic.name}`} onClick={() => setOpen(topic)}>
              Change
            </Button>
            <Button
              size="compact-xs"
              variant="subtle"
              color="gray"
              aria-label={`Remove ${topic.name}`}
              onClick={() => remove.mutate(topic)}
            >
              Remove
            </Button>
          </span>
        </div>
      ))}
      {open && (
        <TopicDialog
          topic={open === "new" ? undefined : open}
          senders={vocabulary.senders}
          onClose={() => setOpen(undefined)}
          onDone={() => {
            setOpen(undefined);
            refresh();
          }}
        />
      )}
    </section>
  );
}

interface TopicDialogProps {
  topic: Topic | undefined;
  senders: Schemas["SenderView"][];
  onClose: () => void;
  onDone: () => void;
}

function TopicDialog({ topic, senders, onClose, onDone }: TopicDialogProps) {
  const [name, setName] = useState(topic?.name ?? "");
  const [description, setDescription] = useState(topic?.description ?? "");
  const [sender, setSender] = useState(topic?.sender_id ?? senders[0]?.id ?? null);
  const [doubleOptIn, setDoubleOptIn] = useState(topic?.double_opt_in ?? false);
  const [week, setWeek] = useState(topic?.week_cap ?? null);
  const [month, setMonth] = useState(topic?.month_cap ?? null);
  const save = useMutation({
    mutationFn: () => {
      const body = {
        key: keyOf(name),
        name,
        description,
        sender_id: sender,
        double_opt_in: doubleOptIn,
        week_cap: week,
        month_cap: month,
        revision: topic?.revision ?? null,
      };
      return topic
        ? take(client.PUT("/api/topics/{topic_id}", { params: { path: { topic_id: topic.id } }, body }))
        : take(client.POST("/api/topics", { body }));
    },
    onSuccess: onDone,
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <Modal opened onClose={onClose} title={topic ? `Change ${topic.name}` : "New topic"}>
      <form className={dialog.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="Name"
          description="Recipients read it when they leave"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Textarea
          label="Description for the public page"
          autosize
          minRows={2}
          value={description}
          onChange={(event) => setDescription(event.currentTarget.value)}
        />
        <NativeSelect
          label="Its messages come from"
          value={String(sender ?? "")}
          data={senders.map((one) => ({ value: String(one.id), label: `${one.name} <${one.address}>` }))}
          onChange={(event) => setSender(Number(event.currentTarget.value) || null)}
        />
        <Checkbox
          label="Double opt-in: only who confirmed from their own address gets its mail"
          checked={doubleOptIn}
          onChange={(event) => setDoubleOptIn(event.currentTarget.checked)}
        />
        <Caps week={week} month={month} onWeek={setWeek} onMonth={setMonth} of="of this topic" />
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="filled" disabled={!name.trim()} loading={save.isPending}>
            Save the topic
          </Button>
        </div>
      </form>
    </Modal>
  );
}
