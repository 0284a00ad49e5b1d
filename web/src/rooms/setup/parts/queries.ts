import { queryOptions } from "@tanstack/react-query";
import { client, take } from "../../../api";

/** The roles, and what each may do. */
export const rolesQuery = queryOptions({
  queryKey: ["permissions"],
  queryFn: () => take(client.GET("/api/permissions")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** Everybody with an account. */
export const usersQuery = queryOptions({
  queryKey: ["users"],
  queryFn: () => take(client.GET("/api/users")),
});

/** Signing keys, and the domains that have need of one. */
export const signingQuery = queryOptions({
  queryKey: ["signing"],
  queryFn: () => take(client.GET("/api/signing")),
});
