import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";
import type { Group } from "./groups";

const PAGE = 50;

export const responsesQuery = queryOptions({
  queryKey: ["responses", "groups"],
  queryFn: () => take(client.GET("/api/responses")),
});

export const linesQuery = (group: Group) =>
  infiniteQueryOptions({
    queryKey: ["responses", "lines", group],
    queryFn: ({ pageParam }) =>
      take(
        client.GET("/api/responses/groups/{group}", {
          params: { path: { group }, query: pageParam ? { before: pageParam } : {} },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => (page.length === PAGE ? page[page.length - 1]?.id : undefined),
  });

export const mailQuery = (id: number) =>
  queryOptions({
    queryKey: ["responses", "mail", id],
    queryFn: () => take(client.GET("/api/responses/mails/{mail_id}", { params: { path: { mail_id: id } } })),
  });
