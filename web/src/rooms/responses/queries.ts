import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
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

export const runsQuery = queryOptions({
  queryKey: ["responses", "runs"],
  queryFn: () => take(client.GET("/api/responses/runs")),
});

export const runQuery = (id: number) =>
  queryOptions({
    queryKey: ["responses", "run", id],
    queryFn: () => take(client.GET("/api/responses/runs/{run_id}", { params: { path: { run_id: id } } })),
  });

/** The message with its clicks: made anew when more people have clicked, not with whatever else comes back. */
export const runLetterQuery = (id: number, clicked: number) =>
  queryOptions({
    queryKey: ["clicked letters", id, clicked],
    placeholderData: keepPreviousData,
    queryFn: () =>
      take(client.GET("/api/responses/runs/{run_id}/letter", { params: { path: { run_id: id } } })),
    retry: false,
  });
