import { Button, Group, Modal, NativeSelect, SegmentedControl, TextInput } from "@mantine/core";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../../../api";
import { people } from "../../../../core/words";
import { Trouble } from "../../../../ui";
import { audiencesQuery } from "../../../audiences";
import { ValueInput } from "../person/ValueInput";
import classes from "./BulkDialog.module.css";

export type BulkKind = "pick" | "tag" | "untag" | "set" | "subscribe" | "leave-out" | "delete" | "erase";

interface BulkDialogProps {
  kind: BulkKind;
  who: Schemas["Selected"];
  onClose: () => void;
  onDone: (result: Schemas["BulkResult"]) => void;
}

const WORDS: Record<BulkKind, { title: string; about: string; act: string }> = {
  pick: {
    title: "Pick for an audience",
    about: "Whatever its conditions say. Who is added still needs to have opted in to the campaign's topic.",
    act: "Pick",
  },
  tag: { title: "Put a tag on", about: "Whoever has it already keeps it.", act: "Tag" },
  untag: { title: "Take a tag off", about: "Whoever does not have it stays as they are.", act: "Take off" },
  set: { title: "Set a field", about: "The same value for everybody. It can be undone.", act: "Set for" },
  subscribe: {
    title: "Subscribe with evidence",
    about: "Whoever has left stays out: only they can come back.",
    act: "Subscribe",
  },
  "leave-out": {
    title: "Never write to them",
    about: "Their addresses go on the suppression list, and what has not gone out to them is held.",
    act: "Suppress",
  },
  delete: {
    title: "Delete",
    about: "They can be brought back for 30 days. What has not gone out to them is held.",
    act: "Delete",
  },
  erase: {
    title: "Erase for good",
    about:
      "For a request under data-protection law. Everything about them goes and cannot be brought back, with the duplicates that were merged into them. A coded fingerprint of the address stays, so that they cannot come back with a file; whoever shares the address gets nothing at it any more. The ledger keeps its entries without a name.",
    act: "Erase",
  },
};

/** One dialog for each thing that can be done with many: it says what will happen, to how many. */
export function BulkDialog({ kind, who, onClose, onDone }: BulkDialogProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [text, setText] = useState("");
  const [key, setKey] = useState("");
  const words = WORDS[kind];
  const fields = vocabulary?.fields.filter((field) => !["address", "contact_no"].includes(field.key)) ?? [];
  const field = fields.find((one) => one.key === key) ?? fields.find((one) => !one.standard);
  const { data: audiences } = useQuery({ ...audiencesQuery, enabled: kind === "pick" });
  const audience = Number(key) || audiences?.[0]?.id;
  const [out, setOut] = useState(false);
  const topic = key || vocabulary?.topics[0]?.key || "";
  const act = useMutation({
    mutationFn: (): Promise<Schemas["BulkResult"]> => {
      switch (kind) {
        case "pick":
          return take(
            client.POST("/api/bulk/pick", {
              body: { who, audience_id: audience ?? 0, kind: out ? "left_out" : "added" },
            }),
          );
        case "tag":
        case "untag":
          return take(client.POST("/api/bulk/tag", { body: { who, name: text, put: kind === "tag" } }));
        case "set":
          return take(client.POST("/api/bulk/set-field", { body: { who, key: field?.key ?? "", text } }));
        case "subscribe":
          return take(client.POST("/api/bulk/subscribe", { body: { who, topic, legal_basis: text } }));
        case "leave-out":
          return take(client.POST("/api/bulk/suppress", { body: { who, reason: text } }));
        case "delete":
          return take(client.POST("/api/bulk/delete", { body: { who } }));
        case "erase":
          return take(client.POST("/api/bulk/erase", { body: { who } }));
      }
    },
    onSuccess: onDone,
  });
  const confirmation = String(who.seen);
  const able =
    kind === "delete" ||
    kind === "set" ||
    (kind === "pick" && audience !== undefined) ||
    (kind === "erase" ? text.trim() === confirmation : text.trim().length > 0);
  function submit(event: FormEvent) {
    event.preventDefault();
    act.mutate();
  }
  return (
    <Modal opened onClose={onClose} title={`${words.title}: ${people(who.seen)}`}>
      <form className={classes.form} onSubmit={submit}>
        <p className="soft">{words.about}</p>
        {(kind === "tag" || kind === "untag") && (
          <TextInput
            data-autofocus
            label="Tag"
            list="tags-there-are"
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
        )}
        <datalist id="tags-there-are">
          {vocabulary?.tags.map((tag) => (
            <option key={tag} value={tag} />
          ))}
        </datalist>
        {kind === "set" && field && (
          <>
            <NativeSelect
              data-autofocus
              label="Field"
              value={field.key}
              data={fields.map((one) => ({ value: one.key, label: one.label }))}
              onChange={(event) => {
                setKey(event.currentTarget.value);
                setText("");
              }}
            />
            <ValueInput label="Value" field={field} text={text} onText={setText} />
          </>
        )}
        {kind === "pick" && (
          <>
            <NativeSelect
              data-autofocus
              label="Audience"
              value={String(audience ?? "")}
              data={(audiences ?? []).map((one) => ({ value: String(one.id), label: one.name }))}
              onChange={(event) => setKey(event.currentTarget.value)}
            />
            <SegmentedControl
              aria-label="What becomes of them"
              value={out ? "out" : "in"}
              data={[
                { value: "in", label: "Add them" },
                { value: "out", label: "Leave them out" },
              ]}
              onChange={(next) => setOut(next === "out")}
            />
          </>
        )}
        {kind === "subscribe" && (
          <NativeSelect
            label="Topic"
            value={topic}
            data={vocabulary?.topics.map((one) => ({ value: one.key, label: one.name })) ?? []}
            onChange={(event) => setKey(event.currentTarget.value)}
          />
        )}
        {(kind === "subscribe" || kind === "leave-out") && (
          <TextInput
            data-autofocus
            label={kind === "subscribe" ? "How did they agree?" : "Reason"}
            placeholder={
              kind === "subscribe" ? "Signed the list at the open day, 14 June 2026" : "Asked by telephone"
            }
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
        )}
        {kind === "erase" && (
          <TextInput
            data-autofocus
            label={`Type ${confirmation} to confirm`}
            description="This cannot be undone."
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
        )}
        {act.error && <Trouble>{wordsOf(act.error)}</Trouble>}
        <Group gap={8} justify="flex-end" wrap="nowrap">
          <Button onClick={onClose}>Cancel</Button>
          <Button
            type="submit"
            variant="filled"
            color={kind === "erase" || kind === "delete" ? "red.9" : "garnet"}
            disabled={!able}
            loading={act.isPending}
          >
            {`${words.act} ${people(who.seen)}`}
          </Button>
        </Group>
      </form>
    </Modal>
  );
}
