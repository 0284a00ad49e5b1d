import { infiniteQueryOptions, keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const PAGE = 100;

export interface Wanted {
  search: string;
  criteria: string;
}

export const contactsQuery = (wanted: Wanted, sort: string) =>
  infiniteQueryOptions({
    queryKey: ["contacts", "table", wanted, sort],
    queryFn: ({ pageParam }) =>
      take(
        client.GET("/api/contacts", {
          params: { query: { ...wanted, sort, limit: PAGE, ...(pageParam ? { after: pageParam } : {}) } },
        }),
      ),
    initialPageParam: "",
    getNextPageParam: (page) => page.after ?? undefined,
    placeholderData: keepPreviousData,
  });

/** Criteria read by the server: what is wrong with them, or about how many match; the table's exact count takes longer. */
export const criteriaQuery = (text: string) =>
  queryOptions({
    queryKey: ["criteria", text],
    queryFn: () => take(client.POST("/api/criteria", { body: { text, estimate: true } })),
    enabled: text !== "",
    staleTime: 30_000,
  });

export const countQuery = (wanted: Wanted) =>
  queryOptions({
    queryKey: ["contacts", "count", wanted],
    queryFn: () => take(client.GET("/api/contacts/count", { params: { query: wanted } })),
    placeholderData: keepPreviousData,
  });

export const personQuery = (id: number) =>
  queryOptions({
    queryKey: ["contacts", "person", id],
    queryFn: () => take(client.GET("/api/contacts/{contact_id}", { params: { path: { contact_id: id } } })),
  });

export const viewsQuery = queryOptions({
  queryKey: ["contacts", "views"],
  queryFn: () => take(client.GET("/api/contact-views")),
});

export const importsQuery = queryOptions({
  queryKey: ["imports"],
  queryFn: () => take(client.GET("/api/imports")),
});

export const sourcesQuery = queryOptions({
  queryKey: ["sources", "list"],
  queryFn: () => take(client.GET("/api/sources")),
});

export const sourceQuery = (id: number) =>
  queryOptions({
    queryKey: ["sources", "one", id],
    queryFn: () => take(client.GET("/api/sources/{source_id}", { params: { path: { source_id: id } } })),
  });

export const sourceKindsQuery = queryOptions({
  queryKey: ["sources", "kinds"],
  queryFn: () => take(client.GET("/api/sources/kinds")),
});

export const colleaguesQuery = queryOptions({
  queryKey: ["colleagues"],
  queryFn: () => take(client.GET("/api/colleagues")),
});

export const tableMailsQuery = queryOptions({
  queryKey: ["contacts", "table-mails"],
  queryFn: () => take(client.GET("/api/table-mails")),
});

export const recordQuery = (id: number, asOf: string | undefined) =>
  queryOptions({
    queryKey: ["contacts", "record", id, asOf],
    queryFn: () =>
      take(
        client.GET("/api/contacts/{contact_id}/record", {
          params: { path: { contact_id: id }, query: asOf ? { as_of: asOf } : {} },
        }),
      ),
    placeholderData: keepPreviousData,
  });

export const suppressionsQuery = (search: string, reason: string | undefined) =>
  infiniteQueryOptions({
    queryKey: ["suppressions", search, reason],
    queryFn: ({ pageParam }) =>
      take(
        client.GET("/api/suppressions", {
          params: {
            query: { search, ...(reason ? { reason } : {}), ...(pageParam ? { before: pageParam } : {}) },
          },
        }),
      ),
    initialPageParam: 0,
    getNextPageParam: (page) => page.before ?? undefined,
    placeholderData: keepPreviousData,
  });

export const duplicatesQuery = (by: string) =>
  queryOptions({
    queryKey: ["contacts", "duplicates", by],
    queryFn: () => take(client.GET("/api/duplicates", { params: { query: { by } } })),
    placeholderData: keepPreviousData,
  });

export const changesQuery = queryOptions({
  queryKey: ["contacts", "changes"],
  queryFn: () => take(client.GET("/api/changes")),
});
