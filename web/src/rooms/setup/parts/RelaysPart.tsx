import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { count } from "../../../core/words";
import { announce, ConfirmButton, Empty, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import { newRelay, RelayCard } from "./RelayCard";
import relays from "./RelaysPart.module.css";

type Pool = Schemas["PoolView"];
type Relay = Schemas["RelayView"];

/** The pools that campaigns go through, and the relays in them. One relay is open at a time. */
export function RelaysPart({ pools }: { pools: Pool[] }) {
  const all = pools.flatMap((pool) => pool.relays);
  const [open, setOpen] = useState<{ pool: number; relay: number } | undefined>(
    all.length === 1 && all[0] ? { pool: all[0].pool_id, relay: all[0].id } : undefined,
  );
  const [naming, setNaming] = useState<number | "new">();
  return (
    <section aria-label="Relays">
      <PageHead title="Relays" about="A campaign goes through a pool of relays.">
        <Button onClick={() => setNaming("new")}>New pool</Button>
      </PageHead>
      {naming === "new" && <PoolName onDone={() => setNaming(undefined)} />}
      {pools.length === 0 && naming !== "new" && (
        <Empty title="Nothing to send through yet">Make a pool, and a relay in it.</Empty>
      )}
      {pools.map((pool) => (
        <section key={pool.id} className={relays.pool} aria-label={pool.name}>
          <PoolHead
            pool={pool}
            isNamed={naming === pool.id}
            onName={(on) => setNaming(on ? pool.id : undefined)}
            onAdd={() => setOpen({ pool: pool.id, relay: 0 })}
          />
          {pool.relays.length === 0 && open?.pool !== pool.id && (
            <p className="soft">Nothing goes out through this pool before it has a relay.</p>
          )}
          {pool.relays.map((relay) => (
            <RelayLine
              key={relay.id}
              relay={relay}
              isOpen={open?.relay === relay.id}
              onOpen={(on) => setOpen(on ? { pool: pool.id, relay: relay.id } : undefined)}
              pools={pools}
            />
          ))}
          {open?.relay === 0 && open.pool === pool.id && (
            <RelayCard
              relay={newRelay(pool.id)}
              pools={pools}
              onMade={(relay) => setOpen({ pool: pool.id, relay })}
            />
          )}
          {pool.relays.length > 1 && <p className="soft">{sharing(pool.relays)}</p>}
        </section>
      ))}
    </section>
  );
}

/** How the relays of a pool help each other, in a sentence. */
export function sharing(relays: Relay[]): string {
  const places = [...new Set(relays.map((relay) => relay.place))].sort((one, other) => one - other);
  const told = places.map((place, turn) => {
    const names = relays.filter((relay) => relay.place === place).map((relay) => relay.name);
    const many = names.length > 1;
    const who = many ? `${names.slice(0, -1).join(", ")} and ${names.at(-1)}` : names[0];
    if (turn > 0) return `${who} ${many ? "stand" : "stands"} in while all before are in trouble.`;
    return many ? `${who} share the mail by what each has left.` : `${who} carries the mail.`;
  });
  return told.join(" ");
}

function limitsOf(relay: Relay): string {
  const limits = [
    relay.minute_limit && `${count(relay.minute_limit)} a minute`,
    relay.hourly_limit && `${count(relay.hourly_limit)} an hour`,
    relay.daily_limit && `${count(relay.daily_limit)} a day`,
  ].filter(Boolean);
  return limits.length > 0 ? `at most ${limits.join(", ")}` : "no limits";
}

interface HeadProps {
  pool: Pool;
  isNamed: boolean;
  onName: (on: boolean) => void;
  onAdd: () => void;
}

function PoolHead({ pool, isNamed, onName, onAdd }: HeadProps) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () => take(client.DELETE("/api/pools/{pool_id}", { params: { path: { pool_id: pool.id } } })),
    onSuccess: () => renew(queries, { queryKey: vocabularyQuery.queryKey }),
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  if (isNamed) return <PoolName pool={pool} onDone={() => onName(false)} />;
  return (
    <div className={relays.head}>
      <h2>{pool.name}</h2>
      <span className={classes.acts}>
        <Button size="compact-xs" aria-label={`Add a relay to ${pool.name}`} onClick={onAdd}>
          Add a relay
        </Button>
        <Button size="compact-xs" aria-label={`Rename ${pool.name}`} onClick={() => onName(true)}>
          Rename
        </Button>
        {pool.relays.length === 0 && (
          <ConfirmButton
            size="compact-xs"
            words="Remove…"
            yes={`Remove ${pool.name}`}
            onYes={() => remove.mutateAsync()}
          />
        )}
      </span>
    </div>
  );
}

function PoolName({ pool, onDone }: { pool?: Pool; onDone: () => void }) {
  const queries = useQueryClient();
  const [name, setName] = useState(pool?.name ?? "");
  const save = useMutation({
    mutationFn: () =>
      pool
        ? take(client.PUT("/api/pools/{pool_id}", { params: { path: { pool_id: pool.id } }, body: { name } }))
        : take(client.POST("/api/pools", { body: { name } })),
    onSuccess: async () => {
      await renew(queries, { queryKey: vocabularyQuery.queryKey });
      onDone();
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <form className={relays.naming} onSubmit={submit}>
      <TextInput
        label="Name of the pool"
        size="xs"
        autoFocus
        value={name}
        error={save.error ? wordsOf(save.error) : undefined}
        onChange={(event) => setName(event.currentTarget.value)}
      />
      <Button type="submit" variant="filled" disabled={!name.trim()} loading={save.isPending}>
        {pool ? "Rename" : "Make the pool"}
      </Button>
      <Button onClick={onDone}>Cancel</Button>
    </form>
  );
}

interface LineProps {
  relay: Relay;
  pools: Pool[];
  isOpen: boolean;
  onOpen: (on: boolean) => void;
}

function RelayLine({ relay, pools, isOpen, onOpen }: LineProps) {
  const queries = useQueryClient();
  const remove = useMutation({
    mutationFn: () =>
      take(client.DELETE("/api/relays/{relay_id}", { params: { path: { relay_id: relay.id } } })),
    onSuccess: () => renew(queries, { queryKey: vocabularyQuery.queryKey }),
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  return (
    <>
      <div className={relays.line}>
        <span className={relays.place} title="Place in the pool">
          {relay.place}
        </span>
        <b>{relay.name}</b>
        <span className="soft">
          {relay.host}:{relay.port}, {limitsOf(relay)}
        </span>
        <span className={classes.acts}>
          <Button
            size="compact-xs"
            aria-expanded={isOpen}
            aria-label={isOpen ? `Close ${relay.name}` : `Change ${relay.name}`}
            onClick={() => onOpen(!isOpen)}
          >
            {isOpen ? "Close" : "Change"}
          </Button>
          <ConfirmButton
            size="compact-xs"
            words="Remove…"
            yes={`Remove ${relay.name}`}
            onYes={() => remove.mutateAsync()}
          />
        </span>
      </div>
      {relay.trouble && !isOpen && <Trouble tone="held">{relay.trouble}</Trouble>}
      {isOpen && <RelayCard relay={relay} pools={pools} onMade={() => undefined} />}
    </>
  );
}
