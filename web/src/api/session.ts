/** What every room asks: who is signed in, and what can be asked and inserted. */
import { queryOptions, useQuery } from "@tanstack/react-query";
import { instantWords, type Words } from "../core/words";
import { client, rememberCsrf, type Schemas, take } from "./client";

export const meQuery = queryOptions({
  queryKey: ["me"],
  queryFn: async () => {
    const me = await take(client.GET("/api/session"));
    rememberCsrf(me.csrf_token);
    return me;
  },
  staleTime: 5 * 60_000,
  retry: false,
});

export const vocabularyQuery = queryOptions({
  queryKey: ["vocabulary"],
  queryFn: () => take(client.GET("/api/vocabulary")),
  staleTime: 60_000,
});

export type Permission = Schemas["Permission"];

/** What whoever is signed in may do; a button for anything else is not shown. */
export function useMay(): (permission: Permission) => boolean {
  const { data: me } = useQuery(meQuery);
  return (permission) => me?.permissions.includes(permission) ?? false;
}

/** Instants as words, in the organisation's time zone. */
export function useWords(): Words {
  const { data } = useQuery(vocabularyQuery);
  return instantWords(data?.time_zone ?? "UTC");
}
