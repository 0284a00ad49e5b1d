import { Button, Group, NativeSelect, PasswordInput, TextInput } from "@mantine/core";
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

/** A relay's settings, and trying it step by step. */
export function RelayCard({ relay }: { relay: Schemas["RelayView"] }) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState({ ...relay, password: null as string | null });
  const set = (change: Partial<typeof draft>) => setDraft((old) => ({ ...old, ...change }));
  const path = { params: { path: { relay_id: relay.id } } };
  const save = useMutation({
    mutationFn: () => {
      const { name, host, port, security, username, password, minute_limit, hourly_limit, daily_limit } =
        draft;
      return take(
        client.PUT("/api/relays/{relay_id}", {
          ...path,
          body: { name, host, port, security, username, password, minute_limit, hourly_limit, daily_limit },
        }),
      );
    },
    onSuccess: () => {
      set({ password: null });
      void renew(queries, { queryKey: vocabularyQuery.queryKey });
      announce("The relay is saved.");
    },
  });
  const attempt = useMutation({
    mutationFn: async () => {
      await save.mutateAsync();
      return take(client.POST("/api/relays/{relay_id}/try", path));
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const fault = save.error ?? attempt.error;
  return (
    <form className={classes.card} onSubmit={submit}>
      <TextInput
        label="Name"
        size="xs"
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
      {LIMITS.map(({ key, label }) => (
        <NumberField
          key={key}
          label={label}
          size="xs"
          min={1}
          whole
          value={draft[key]}
          onNumber={(most) => set({ [key]: most })}
          onBlank={() => set({ [key]: null })}
        />
      ))}
      <Group gap={8}>
        <Button type="submit" variant="filled" loading={save.isPending}>
          Save
        </Button>
        <Button loading={attempt.isPending} onClick={() => attempt.mutate()}>
          Save and try it
        </Button>
      </Group>
      <div className={classes.told} aria-live="polite">
        {fault && <Trouble>{wordsOf(fault)}</Trouble>}
        {attempt.data?.map((step) => (
          <div key={step.name} className={classes.step}>
            <Diamond state={step.worked ? "done" : "bad"} size={13} />
            <b>{step.name}</b>
            <span>{step.words}</span>
            <span className="faint">{step.milliseconds} ms</span>
          </div>
        ))}
      </div>
    </form>
  );
}
