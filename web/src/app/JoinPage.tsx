import { Button, Loader, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useRouter } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, meQuery, rememberCsrf, type Schemas, take, wordsOf } from "../api";
import { Mark, Trouble } from "../ui";
import classes from "./SignInPage.module.css";

/** Choosing a password by the link that one was given. The secret stands behind the #: it stays in the browser. */
export function JoinPage() {
  const [token] = useState(() => window.location.hash.slice(1));
  const { data: invited, error } = useQuery({
    queryKey: ["invitation", token],
    queryFn: () => take(client.POST("/api/session/invitation/look", { body: { token } })),
    retry: false,
    staleTime: Number.POSITIVE_INFINITY,
  });
  return (
    <main className={classes.page}>
      {invited ? (
        <JoinForm token={token} invited={invited} />
      ) : (
        <div className={classes.card}>
          {error ? (
            <>
              <Trouble>{wordsOf(error)}</Trouble>
              <Link to="/sign-in">Sign in by password</Link>
            </>
          ) : (
            <Loader aria-label="Looking at the link" />
          )}
        </div>
      )}
    </main>
  );
}

function JoinForm({ token, invited }: { token: string; invited: Schemas["Invited"] }) {
  const queries = useQueryClient();
  const router = useRouter();
  const [name, setName] = useState(invited.name);
  const [password, setPassword] = useState("");
  const join = useMutation({
    mutationFn: () => take(client.POST("/api/session/invitation", { body: { token, name, password } })),
    onSuccess: (me) => {
      rememberCsrf(me.csrf_token);
      queries.setQueryData(meQuery.queryKey, me);
      router.navigate({ to: "/", replace: true });
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    join.mutate();
  }
  return (
    <form className={classes.card} onSubmit={submit}>
      <div className={classes.mark}>
        <Mark size={30} /> uvarovite
      </div>
      <div>
        {invited.returning ? "Choose a new password for" : "Welcome. Choose a password for"}{" "}
        <b>{invited.email}</b>
      </div>
      <input type="hidden" autoComplete="username" value={invited.email} readOnly />
      <TextInput label="Your name" value={name} onChange={(event) => setName(event.currentTarget.value)} />
      <PasswordInput
        label="Password"
        description="At least 10 characters"
        autoComplete="new-password"
        autoFocus
        value={password}
        onChange={(event) => setPassword(event.currentTarget.value)}
      />
      {join.error && <Trouble>{wordsOf(join.error)}</Trouble>}
      <Button
        type="submit"
        variant="filled"
        size="sm"
        disabled={password.length < 10 || !name.trim()}
        loading={join.isPending}
      >
        Sign in
      </Button>
    </form>
  );
}
