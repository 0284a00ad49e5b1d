import { Loader } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { getRouteApi, Link, useRouter } from "@tanstack/react-router";
import { useEffect, useRef } from "react";
import { client, meQuery, rememberCsrf, take, wordsOf } from "../api";
import { Trouble } from "../ui";
import classes from "./SignInPage.module.css";

const route = getRouteApi("/enter");

/** Signing in by a one-time link. The token goes with a POST, so that a link preview cannot use it up. */
export function EnterPage() {
  const { token } = route.useSearch();
  const queries = useQueryClient();
  const router = useRouter();
  const begun = useRef(false);
  const enter = useMutation({
    mutationFn: () => take(client.POST("/api/session/link", { body: { token: token ?? "" } })),
    onSuccess: (me) => {
      rememberCsrf(me.csrf_token);
      queries.setQueryData(meQuery.queryKey, me);
      router.navigate({ to: "/", replace: true });
    },
  });
  useEffect(() => {
    if (begun.current) return;
    begun.current = true;
    enter.mutate();
  }, [enter]);
  return (
    <main className={classes.page}>
      <div className={classes.card}>
        {enter.isError ? (
          <>
            <Trouble>{wordsOf(enter.error)}</Trouble>
            <Link to="/sign-in">Sign in by password</Link>
          </>
        ) : (
          <Loader aria-label="Signing in" />
        )}
      </div>
    </main>
  );
}
