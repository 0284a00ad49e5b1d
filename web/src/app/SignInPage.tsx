import { Button, PasswordInput, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { getRouteApi, useRouter } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, meQuery, rememberCsrf, take, wordsOf } from "../api";
import { Mark, Trouble } from "../ui";
import classes from "./SignInPage.module.css";

const route = getRouteApi("/sign-in");

/** Signing in by address and password. */
export function SignInPage() {
  const { back } = route.useSearch();
  const queries = useQueryClient();
  const router = useRouter();
  const [email, setEmail] = useState("");
  const [password, setPassword] = useState("");
  const signIn = useMutation({
    mutationFn: () => take(client.POST("/api/session", { body: { email, password } })),
    onSuccess: (me) => {
      rememberCsrf(me.csrf_token);
      queries.setQueryData(meQuery.queryKey, me);
      // Only a path of ours: an address from elsewhere is not followed.
      router.history.push(back?.startsWith("/") && !back.startsWith("//") ? back : "/");
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    signIn.mutate();
  }
  return (
    <main className={classes.page}>
      <form className={classes.card} onSubmit={submit}>
        <div className={classes.mark}>
          <Mark size={30} /> uvarovite
        </div>
        <TextInput
          label="E-mail address"
          type="email"
          autoComplete="username"
          required
          autoFocus
          value={email}
          onChange={(event) => setEmail(event.currentTarget.value)}
        />
        <PasswordInput
          label="Password"
          autoComplete="current-password"
          required
          value={password}
          onChange={(event) => setPassword(event.currentTarget.value)}
        />
        {signIn.isError && <Trouble>{wordsOf(signIn.error)}</Trouble>}
        <Button type="submit" variant="filled" size="sm" loading={signIn.isPending}>
          Sign in
        </Button>
      </form>
    </main>
  );
}
