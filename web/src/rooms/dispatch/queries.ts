import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, type Schemas, take } from "../../api";

export const dispatchQuery = (run: number) =>
  queryOptions({
    queryKey: ["dispatch", run],
    queryFn: () => take(client.GET("/api/runs/{run_id}", { params: { path: { run_id: run } } })),
    // What moves is looked at every second; opens and clicks come in for long after the end.
    refetchInterval: (query) => (query.state.data?.state === "going" ? 1000 : 4000),
  });

/** What of a run was answered, in a rehearsal where one is meant. */
const placeOf = (run: number, rehearsal?: number) =>
  rehearsal === undefined ? ["dispatch", run] : ["rehearsals", rehearsal, run];
const inOf = (rehearsal?: number) => (rehearsal === undefined ? {} : { rehearsal });

/** A rehearsal, with its run as its dispatch would show it. */
export const rehearsalQuery = (id: number) =>
  queryOptions({
    queryKey: ["rehearsals", id],
    queryFn: () =>
      take(client.GET("/api/rehearsals/{rehearsal_id}", { params: { path: { rehearsal_id: id } } })),
    refetchInterval: (query) =>
      ["waiting", "going"].includes(query.state.data?.rehearsal.state ?? "") ? 1000 : false,
  });

/** How many of a run are on their way still. */
export function movingIn(view: Schemas["DispatchView"]): number {
  return ["waiting", "claimed", "sending", "deferred"].reduce(
    (sum, state) => sum + (view.states[state] ?? 0),
    0,
  );
}

export const answersQuery = (run: number, kind: string | null, rehearsal?: number) =>
  queryOptions({
    queryKey: [...placeOf(run, rehearsal), "answers", kind],
    queryFn: () =>
      take(
        client.GET("/api/runs/{run_id}/answers", {
          params: { path: { run_id: run }, query: { ...(kind ? { kind } : {}), ...inOf(rehearsal) } },
        }),
      ),
    refetchInterval: 2000,
    placeholderData: keepPreviousData,
  });

export const deliveriesQuery = (
  run: number,
  search: string,
  state: string | null,
  response: string | null,
  rehearsal?: number,
) =>
  queryOptions({
    queryKey: [...placeOf(run, rehearsal), "deliveries", search, state, response],
    queryFn: () =>
      take(
        client.GET("/api/runs/{run_id}/deliveries", {
          params: {
            path: { run_id: run },
            query: {
              search,
              ...(state ? { state } : {}),
              ...(response ? { response } : {}),
              ...inOf(rehearsal),
            },
          },
        }),
      ),
    refetchInterval: 3000,
    placeholderData: keepPreviousData,
  });

/** Whom a run over those who did not get it would be for, or over one of them. */
export const againQuery = (run: number, state: Schemas["DeliveryState"], delivery?: number) =>
  queryOptions({
    queryKey: ["dispatch", run, "again", state, delivery],
    queryFn: () =>
      take(
        client.GET("/api/runs/{run_id}/again", {
          params: {
            path: { run_id: run },
            query: { state, ...(delivery === undefined ? {} : { delivery }) },
          },
        }),
      ),
  });

export const traceQuery = (delivery: number, rehearsal?: number) =>
  queryOptions({
    queryKey: ["trace", delivery, rehearsal],
    queryFn: () =>
      take(
        client.GET("/api/deliveries/{delivery_id}/trace", {
          params: { path: { delivery_id: delivery }, query: inOf(rehearsal) },
        }),
      ),
    refetchInterval: 2000,
    placeholderData: keepPreviousData,
  });

export const sentQuery = (delivery: number, rehearsal?: number) =>
  queryOptions({
    queryKey: ["trace", delivery, rehearsal, "message"],
    queryFn: () =>
      take(
        client.GET("/api/deliveries/{delivery_id}/message", {
          params: { path: { delivery_id: delivery }, query: inOf(rehearsal) },
        }),
      ),
  });
