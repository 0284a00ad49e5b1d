import { Button, Group, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, meQuery, renew, take, useWords, wordsOf } from "../../../api";
import { announce, ConfirmButton, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";
import { browserWords } from "./browserWords";
import { rolesQuery } from "./queries";

/** One's own name, password, and the browsers in which one is signed in. */
export function AccountPart() {
  return (
    <>
      <Profile />
      <Password />
      <Sessions />
    </>
  );
}

function Profile() {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const { data: table } = useQuery(rolesQuery);
  const [name, setName] = useState(me?.name ?? "");
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/own/name", { body: { name } })),
    onSuccess: () => {
      void renew(queries, { queryKey: meQuery.queryKey }, "users");
      announce("You are called so from now on.");
    },
  });
  const role = table?.roles.find((one) => one.role === me?.role);
  return (
    <section aria-label="Your account">
      <PageHead title="Your account" />
      <form
        className={classes.form}
        onSubmit={(event) => {
          event.preventDefault();
          save.mutate();
        }}
      >
        <div>
          {me?.email}
          {role && (
            <span className="soft">
              , {role.label}: {role.words}
            </span>
          )}
        </div>
        <TextInput
          label="Name"
          maw={340}
          value={name}
          onChange={(event) => setName(event.currentTarget.value)}
        />
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
        <div>
          <Button type="submit" variant="filled" disabled={name === me?.name} loading={save.isPending}>
            Save the name
          </Button>
        </div>
      </form>
    </section>
  );
}

function Password() {
  const queries = useQueryClient();
  const [old, setOld] = useState("");
  const [fresh, setFresh] = useState("");
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/own/password", { body: { old, new: fresh } })),
    onSuccess: (ended) => {
      setOld("");
      setFresh("");
      void renew(queries, "own-sessions");
      const others = ended === 1 ? "One other browser is" : `${ended} other browsers are`;
      announce(`Your password is changed.${ended ? ` ${others} signed out.` : ""}`);
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <section aria-label="Password">
      <h2>Password</h2>
      <form className={classes.form} onSubmit={submit}>
        <Group align="end" gap="md">
          <PasswordInput
            label="The one you sign in with"
            w={250}
            autoComplete="current-password"
            value={old}
            onChange={(event) => setOld(event.currentTarget.value)}
          />
          <PasswordInput
            label="The new one, at least 10 characters"
            w={250}
            autoComplete="new-password"
            value={fresh}
            onChange={(event) => setFresh(event.currentTarget.value)}
          />
          <Button
            type="submit"
            variant="filled"
            disabled={!old || fresh.length < 10}
            loading={save.isPending}
          >
            Change the password
          </Button>
        </Group>
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      </form>
    </section>
  );
}

function Sessions() {
  const queries = useQueryClient();
  const words = useWords();
  const { data: sessions, error } = useQuery({
    queryKey: ["own-sessions"],
    queryFn: () => take(client.GET("/api/own/sessions")),
  });
  const refresh = () => renew(queries, "own-sessions");
  const end = useMutation({
    mutationFn: (session_id: number) =>
      take(client.DELETE("/api/own/sessions/{session_id}", { params: { path: { session_id } } })),
    onSuccess: refresh,
  });
  const endOthers = useMutation({
    mutationFn: () => take(client.DELETE("/api/own/sessions")),
    onSuccess: refresh,
  });
  const fault = error ?? end.error ?? endOthers.error;
  return (
    <section aria-label="Sessions">
      <h2>
        Signed in{" "}
        {sessions && sessions.length > 1 && (
          <ConfirmButton
            words="Sign out everywhere else…"
            yes={`Sign out ${sessions.length - 1} other browser${sessions.length === 2 ? "" : "s"}`}
            onYes={() => endOthers.mutateAsync()}
          />
        )}
      </h2>
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      {sessions?.map((one) => (
        <div key={one.id} className={classes.line}>
          <b>{browserWords(one.agent)}</b>
          <span className="soft">
            from {one.origin}, since {words.moment(one.created_at)}, last used {words.moment(one.seen_at)}
          </span>
          {one.here ? (
            <span>this browser</span>
          ) : (
            <Button size="compact-xs" onClick={() => end.mutate(one.id)}>
              Sign out
            </Button>
          )}
        </div>
      ))}
    </section>
  );
}
