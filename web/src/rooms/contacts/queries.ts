import { infiniteQueryOptions, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const PAGE = 100;

export const contactsQuery = (search: string) =>
  infiniteQueryOptions({
    queryKey: ["contacts", "table", search],
    queryFn: ({ pageParam }) =>
      take(
        client.GET("/api/contacts", {
          params: { query: { search, limit: PAGE, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.after ?? undefined,
  });

export const personQuery = (id: number) =>
  queryOptions({
    queryKey: ["contacts", "person", id],
    queryFn: () => take(client.GET("/api/contacts/{contact_id}", { params: { path: { contact_id: id } } })),
  });
