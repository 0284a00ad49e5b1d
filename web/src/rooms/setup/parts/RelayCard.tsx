import { Button, Group, NativeSelect, PasswordInput, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { announce, Diamond, NumberField, Trouble } from "../../../ui";
import classes from "./RelayCard.module.css";

const LIMITS = [
  { key: "minute_limit", label: "At most in a minute" },
  { key: "hourly_limit", label: "At most in an hour" },
  { key: "daily_limit", label: "At most in a day" },
] as const;

const NUMBERS = [
  { key: "connections", label: "Connections at once", min: 1, max: 100 },
  { key: "messages_per_connection", label: "Messages a connection", min: 1, max: 100_000 },
  { key: "timeout_seconds", label: "Seconds to wait for an answer", min: 5, max: 900 },
] as const;

const NAMES = [
  { key: "hello_name", label: "Our name (EHLO)", description: "Blank: the name of the machine" },
  {
    key: "envelope_domain",
    label: "Undeliverable mail comes back to",
    description: "A domain whose mail comes here; blank: the sender's address",
  },
] as const;

type Relay = Schemas["RelayView"];

/** What a relay begins with that is not there yet. */
export function newRelay(poolId: number): Relay {
  return {
    id: 0,
    pool_id: poolId,
    place: 1,
    name: "",
    host: "",
    port: 587,
    security: "starttls",
    username: null,
    has_password: false,
    minute_limit: null,
    hourly_limit: null,
    daily_limit: null,
    connections: 4,
    messages_per_connection: 500,
    timeout_seconds: 120,
    attempts: 5,
    hello_name: null,
    envelope_domain: null,
    authority: null,
    trouble: null,
    revision: 0,
  };
}

interface Props {
  relay: Relay;
  pools: Schemas["PoolView"][];
  /** It was made: under this number. */
  onMade: (id: number) => void;
}

/** A relay's settings, and trying it step by step. One whose number is 0 is made when it is saved. */
export function RelayCard({ relay, pools, onMade }: Props) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ ...relay, password: null as string | null });
  const set = (change: Partial<typeof draft>) => setDraft((old) => ({ ...old, ...change }));
  const save = useMutation({
    mutationFn: () => {
      const { id, has_password: _, trouble: __, revision, ...body } = draft;
      return id
        ? take(
            client.PUT("/api/relays/{relay_id}", {
              params: { path: { relay_id: id } },
              body: { ...body, revision },
            }),
          )
        : take(client.POST("/api/relays", { body }));
    },
    onSuccess: (saved) => {
      set({ id: saved.id, password: null, revision: saved.revision });
      void renew(queries, { queryKey: vocabularyQuery.queryKey });
      announce("The relay is saved.");
      if (!draft.id) onMade(saved.id);
    },
  });
  const attempt = useMutation({
    mutationFn: async () => {
      const saved = await save.mutateAsync();
      return take(client.POST("/api/relays/{relay_id}/try", { params: { path: { relay_id: saved.id } } }));
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const fault = save.error ?? attempt.error;
  return (
    <form className={classes.card} onSubmit={submit} aria-label={relay.name || "New relay"}>
      <TextInput
        label="Name"
        size="xs"
        data-autofocus={relay.id === 0}
        value={draft.name}
        onChange={(event) => set({ name: event.currentTarget.value })}
      />
      <TextInput
        label="Host"
        size="xs"
        value={draft.host}
        onChange={(event) => set({ host: event.currentTarget.value })}
      />
      <NumberField
        label="Port"
        size="xs"
        min={1}
        max={65535}
        plain
        value={draft.port}
        whole
        onNumber={(port) => set({ port })}
      />
      <NativeSelect
        label="Security"
        size="xs"
        value={draft.security}
        data={[
          { value: "starttls", label: "STARTTLS" },
          { value: "tls", label: "TLS" },
          { value: "none", label: "No encryption (this machine only)" },
        ]}
        onChange={(event) => set({ security: event.currentTarget.value })}
      />
      <TextInput
        label="User"
        size="xs"
        autoComplete="off"
        value={draft.username ?? ""}
        onChange={(event) => set({ username: event.currentTarget.value || null })}
      />
      <PasswordInput
        label="Password"
        size="xs"
        autoComplete="new-password"
        placeholder={relay.has_password ? "stored; type to replace it" : "none"}
        value={draft.password ?? ""}
        onChange={(event) => set({ password: event.currentTarget.value })}
      />
      <div className={classes.fields}>
        {LIMITS.map(({ key, label }) => (
          <NumberField
            key={key}
            label={label}
            size="xs"
            min={1}
            whole
            placeholder="no limit"
            value={draft[key]}
            onNumber={(most) => set({ [key]: most })}
            onBlank={() => set({ [key]: null })}
          />
        ))}
      </div>
      <details className={classes.more}>
        <summary>Place in its pool, connections and names</summary>
        <div className={classes.fields}>
          <NativeSelect
            label="Pool"
            size="xs"
            value={String(draft.pool_id)}
            data={pools.map((pool) => ({ value: String(pool.id), label: pool.name }))}
            onChange={(event) => set({ pool_id: Number(event.currentTarget.value) })}
          />
          <NumberField
            label="Place in the pool"
            size="xs"
            min={1}
            max={9}
            whole
            value={draft.place}
            onNumber={(place) => set({ place })}
          />
          <NumberField
            label="Attempts for each message"
            size="xs"
            min={1}
            max={10}
            whole
            value={draft.attempts}
            onNumber={(attempts) => set({ attempts })}
          />
          {NUMBERS.map(({ key, label, min, max }) => (
            <NumberField
              key={key}
              label={label}
              size="xs"
              min={min}
              max={max}
              whole
              value={draft[key]}
              onNumber={(number) => set({ [key]: number })}
            />
          ))}
          {NAMES.map(({ key, label, description }) => (
            <TextInput
              key={key}
              label={label}
              description={description}
              size="xs"
              value={draft[key] ?? ""}
              onChange={(event) => set({ [key]: event.currentTarget.value || null })}
            />
          ))}
          <Textarea
            label="Authority of its certificate (PEM)"
            description="Blank: those that this machine trusts"
            size="xs"
            rows={1}
            value={draft.authority ?? ""}
            onChange={(event) => set({ authority: event.currentTarget.value || null })}
          />
        </div>
      </details>
      <Group gap={8}>
        <Button type="submit" variant="filled" loading={save.isPending}>
          Save
        </Button>
        <Button loading={attempt.isPending} onClick={() => attempt.mutate()}>
          Save and try it
        </Button>
      </Group>
      <div className={classes.told} aria-live="polite">
        {relay.trouble && <Trouble>{relay.trouble} Saving has it tried again at once.</Trouble>}
        {fault && <Trouble>{wordsOf(fault)}</Trouble>}
        {attempt.data?.map((step) => (
          <details key={step.name} className={classes.tried} open={!step.worked}>
            <summary className={classes.step}>
              <Diamond state={step.worked ? "done" : "bad"} size={13} />
              <b>{step.name}</b>
              <span>{step.words}</span>
              <span className="faint">{step.milliseconds} ms</span>
            </summary>
            {step.wire.length > 0 && (
              <ol className={classes.wire}>
                {step.wire.map((line, place) => (
                  <li key={place} className={line.ours ? classes.ours : undefined}>
                    <span className="faint">{line.ours ? "we" : "relay"}</span> {line.words}
                  </li>
                ))}
              </ol>
            )}
          </details>
        ))}
        {attempt.data?.every((step) => step.worked) && (
          <p className="soft">The message went to your own address. Open a step to read what was said.</p>
        )}
      </div>
    </form>
  );
}
