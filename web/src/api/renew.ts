import type { QueryClient, QueryFilters } from "@tanstack/react-query";

/** Ask anew for everything below these keys, or for all there is; kept when what is on screen has its answer.
 *
 * What was asked before is called off at once: an answer from before the change would be taken for one from after it.
 */
export async function renew(queries: QueryClient, ...what: (string | QueryFilters)[]): Promise<void> {
  const filters = what.map((one) => (typeof one === "string" ? { queryKey: [one] } : one));
  const meant: QueryFilters[] = filters.length > 0 ? filters : [{}];
  await Promise.all(meant.map((one) => queries.cancelQueries(one)));
  await Promise.all(meant.map((one) => queries.invalidateQueries(one)));
}
