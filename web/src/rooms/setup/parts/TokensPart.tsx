import { Button, Checkbox, Modal, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, useMay, useWords, wordsOf } from "../../../api";
import { announce, ConfirmButton, Empty, Once, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import dialog from "./FieldDialog.module.css";
import { rolesQuery } from "./queries";

type Token = Schemas["TokenLine"];
type Scope = Schemas["PermissionRow"];

const LASTS = [
  { value: "30", label: "30 days" },
  { value: "90", label: "90 days" },
  { value: "365", label: "a year" },
  { value: "", label: "until it is revoked" },
];

/** What programs come in with. */
export function TokensPart() {
  const queries = useQueryClient();
  const may = useMay();
  const [making, setMaking] = useState(false);
  const { data: table } = useQuery(rolesQuery);
  const { data: tokens, error } = useQuery({
    queryKey: ["tokens"],
    queryFn: () => take(client.GET("/api/tokens")),
  });
  const refresh = () => renew(queries, "tokens", "users");
  const scopes = (table?.permissions ?? []).filter((one) => one.for_tokens && may(one.permission));
  const inForce = tokens?.filter((one) => !one.revoked_at);
  const revoked = tokens?.filter((one) => one.revoked_at) ?? [];
  return (
    <section aria-label="Tokens">
      <PageHead title="Tokens">
        <Button onClick={() => setMaking(true)}>New token</Button>
      </PageHead>
      <p className="soft">
        A program comes in with a token and may do what the token was given, for whoever made it, as long as
        they may do it themselves.
      </p>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {inForce?.length === 0 && (
        <Empty title="No program comes in">Make a token for one, such as the till in the shop.</Empty>
      )}
      {inForce?.map((one) => (
        <TokenRow key={one.id} token={one} scopes={table?.permissions ?? []} onRevoked={refresh} />
      ))}
      {revoked.length > 0 && (
        <p className="soft">Revoked: {revoked.map((one) => `${one.name} (${one.beginning}…)`).join(", ")}</p>
      )}
      {making && <TokenDialog scopes={scopes} onClose={() => setMaking(false)} onMade={refresh} />}
    </section>
  );
}

function TokenRow({
  token,
  scopes,
  onRevoked,
}: {
  token: Token;
  scopes: Scope[];
  onRevoked: () => Promise<void>;
}) {
  const words = useWords();
  const revoke = useMutation({
    mutationFn: () =>
      take(client.DELETE("/api/tokens/{token_id}", { params: { path: { token_id: token.id } } })),
    onSuccess: onRevoked,
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
  const given = scopes.filter((one) => token.scopes.includes(one.permission)).map((one) => one.words);
  const over = token.expires_at !== null && new Date(token.expires_at) < new Date();
  return (
    <div className={classes.line}>
      <span>
        <b>{token.name}</b>
        <div className="mono soft">{token.beginning}…</div>
      </span>
      <span className="soft">
        For {token.owner}. May {given.join("; ")}.{" "}
        {token.used_at ? `Last used ${words.moment(token.used_at)}.` : "Never used."}{" "}
        {token.expires_at
          ? `${over ? "It ended" : "Works until"} ${words.day(token.expires_at)}.`
          : "Works until it is revoked."}
      </span>
      <ConfirmButton
        size="compact-xs"
        words="Revoke…"
        yes={`Revoke ${token.name}`}
        onYes={() => revoke.mutateAsync()}
      />
    </div>
  );
}

function TokenDialog({
  scopes,
  onClose,
  onMade,
}: {
  scopes: Scope[];
  onClose: () => void;
  onMade: () => Promise<void>;
}) {
  const [name, setName] = useState("");
  const [chosen, setChosen] = useState<string[]>(["look"]);
  const [days, setDays] = useState("90");
  const make = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/tokens", {
          body: {
            name,
            scopes: scopes.map((one) => one.permission).filter((one) => chosen.includes(one)),
            days: days ? Number(days) : null,
          },
        }),
      ),
    onSuccess: () => onMade(),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    make.mutate();
  }
  if (make.data)
    return (
      <Modal opened onClose={onClose} title={`The token ${name}`} size="lg">
        <Once secret={make.data.token} label="Copy it now">
          It is shown this once. The program sends it with each request, in the header{" "}
          <span className="mono">Authorization: Bearer …</span>; what there is to ask for stands under{" "}
          <a href="/api/openapi.json" target="_blank" rel="noreferrer">
            /api/openapi.json
          </a>
          .
        </Once>
      </Modal>
    );
  return (
    <Modal opened onClose={onClose} title="New token" size="lg">
      <form className={dialog.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="What is it for?"
          placeholder="The till in the shop"
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        <Checkbox.Group label="It may" value={chosen} onChange={setChosen}>
          {scopes.map((one) => (
            <Checkbox key={one.permission} my={6} value={one.permission} label={one.words} />
          ))}
        </Checkbox.Group>
        <NativeSelect
          label="It works for"
          w={200}
          value={days}
          data={LASTS}
          onChange={(event) => setDays(event.currentTarget.value)}
        />
        {make.error && <Trouble>{wordsOf(make.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button
            type="submit"
            variant="filled"
            disabled={!name.trim() || chosen.length === 0}
            loading={make.isPending}
          >
            Make the token
          </Button>
        </div>
      </form>
    </Modal>
  );
}
