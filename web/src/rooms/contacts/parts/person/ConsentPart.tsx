import { Button, Checkbox, Group, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../../api";
import { evidenceWords, KIND_WORDS, STATE_WORDS } from "../../../../core/consent";
import { ButtonLink, Diamond, type DiamondState, Trouble } from "../../../../ui";
import classes from "./ConsentPart.module.css";
import { PostLine } from "./PostLine";
import { WishLine } from "./WishLine";

const SHAPES: Record<string, DiamondState> = {
  subscribed: "done",
  paused: "attention",
  asked: "half",
  left: "bad",
  never: "later",
};

/** Where a person stands with each topic, what they said, and the ledger behind it. */
export function ConsentPart({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  const [entering, setEntering] = useState<Schemas["TopicState"]>();
  return (
    <>
      <section aria-label="Topics">
        {person.topics.map((topic) => (
          <div key={topic.key} className={classes.topic}>
            <Diamond state={topic.closed ? "bad" : (SHAPES[topic.state] ?? "later")} size={13} />
            <b>{topic.name}</b>
            <span className="soft">
              {STATE_WORDS[topic.state] ?? topic.state}
              {topic.paused_until && topic.state === "paused"
                ? ` until ${words.day(topic.paused_until)}`
                : topic.since
                  ? ` ${words.day(topic.since)}`
                  : ""}
              {topic.closed && topic.closed.by_id !== person.id && (
                <>
                  {"; closed for this address: "}
                  {topic.closed.by ?? "somebody who was erased"} left {words.day(topic.closed.at)}
                </>
              )}
            </span>
            <May be="contacts">
              <Button
                size="compact-xs"
                aria-label={`Record for ${topic.name}`}
                onClick={() => setEntering(topic)}
              >
                Record…
              </Button>
            </May>
            {entering?.key === topic.key && (
              <Entry person={person} topic={topic} onDone={() => setEntering(undefined)} />
            )}
          </div>
        ))}
      </section>
      {person.own_limit && (
        <p className="soft">
          Wants at most one message a {person.own_limit}, by their own word on their preference page.
        </p>
      )}
      <WishLine person={person} />
      <PostLine person={person} />
      <section aria-label="Ledger">
        <h3 className={classes.title}>As recorded</h3>
        {person.ledger.length === 0 && <p className="soft">Nothing is recorded yet.</p>}
        {person.ledger.map((line) => (
          <div key={line.id} className={classes.event}>
            <span className="faint">{words.day(line.at)}</span>
            <span>
              <b>{line.topic}</b>: {KIND_WORDS[line.kind] ?? line.kind}
              {line.until && ` until ${words.day(line.until)}`}
              <span className="soft">
                {evidenceWords(line.evidence)}
                {line.recorded_by && ` · by ${line.recorded_by}`}
              </span>
            </span>
          </div>
        ))}
        <ButtonLink
          className={classes.record}
          to="/contacts/$id/record"
          params={{ id: String(person.id) }}
          search={{}}
        >
          One page for a data request
        </ButtonLink>
      </section>
    </>
  );
}

function Entry({
  person,
  topic,
  onDone,
}: {
  person: Schemas["Person"];
  topic: Schemas["TopicState"];
  onDone: () => void;
}) {
  const queries = useQueryClient();
  const words = useWords();
  const open = topic.state === "subscribed" || topic.state === "paused";
  const [kind, setKind] = useState(open ? "withdrawn" : "granted");
  const [wording, setWording] = useState("");
  const [day, setDay] = useState("");
  const [forAddress, setForAddress] = useState(false);
  const shared = person.same_address.map((one) => one.name).join(", ");
  const closes = kind === "withdrawn" || kind === "paused";
  const save = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/contacts/{contact_id}/consent", {
          params: { path: { contact_id: person.id } },
          body: {
            topic: topic.key,
            kind,
            wording,
            until: kind === "paused" && day ? `${day}T00:00:00Z` : null,
            for_address: closes && shared ? forAddress : null,
          },
        }),
      ),
    onSuccess: () => {
      void renew(queries, "contacts");
      onDone();
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <form className={classes.entry} onSubmit={submit}>
      <NativeSelect
        size="xs"
        label="What they said"
        value={kind}
        data={[
          { value: "granted", label: "they opt in" },
          { value: "confirmed", label: "they confirm, from their own address" },
          { value: "withdrawn", label: "they leave" },
          { value: "paused", label: "they pause" },
          { value: "asked", label: "invitation sent" },
        ]}
        onChange={(event) => setKind(event.currentTarget.value)}
      />
      {kind === "paused" && (
        <TextInput
          size="xs"
          type="date"
          label="Until"
          value={day}
          onChange={(event) => setDay(event.currentTarget.value)}
        />
      )}
      <TextInput
        size="xs"
        label="How, and in which words"
        placeholder="By telephone, 14 June: please sign me up"
        value={wording}
        onChange={(event) => setWording(event.currentTarget.value)}
      />
      {closes && shared && (
        <Checkbox
          size="xs"
          label={`For everyone at this address (${shared})`}
          description="Otherwise for this person alone; the others go on getting mail"
          checked={forAddress}
          onChange={(event) => setForAddress(event.currentTarget.checked)}
        />
      )}
      {kind === "granted" && topic.closed && topic.closed.by_id !== person.id && (
        <Trouble tone="held">
          {topic.closed.by ?? "Somebody"} left from this mailbox on {words.day(topic.closed.at)}. Nothing is
          sent to it until somebody confirms from the mailbox itself.
        </Trouble>
      )}
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      <Group gap={6} wrap="nowrap">
        <Button
          type="submit"
          size="compact-xs"
          variant="filled"
          loading={save.isPending}
          disabled={wording.trim().length < 5 || (kind === "paused" && !day)}
        >
          Save
        </Button>
        <Button size="compact-xs" onClick={onDone}>
          Cancel
        </Button>
      </Group>
    </form>
  );
}
