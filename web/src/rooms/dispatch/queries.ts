import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, type Schemas, take } from "../../api";

export const dispatchQuery = (run: number) =>
  queryOptions({
    queryKey: ["dispatch", run],
    queryFn: () => take(client.GET("/api/runs/{run_id}", { params: { path: { run_id: run } } })),
    // What moves is looked at every second; opens and clicks come in for long after the end.
    refetchInterval: (query) => (query.state.data?.state === "going" ? 1000 : 4000),
  });

/** How many of a run are on their way still. */
export function movingIn(view: Schemas["DispatchView"]): number {
  return ["waiting", "claimed", "sending", "deferred"].reduce(
    (sum, state) => sum + (view.states[state] ?? 0),
    0,
  );
}

export const answersQuery = (run: number, kind: string | null) =>
  queryOptions({
    queryKey: ["dispatch", run, "answers", kind],
    queryFn: () =>
      take(
        client.GET("/api/runs/{run_id}/answers", {
          params: { path: { run_id: run }, query: kind ? { kind } : {} },
        }),
      ),
    refetchInterval: 2000,
    placeholderData: keepPreviousData,
  });

export const deliveriesQuery = (run: number, search: string, state: string | null, response: string | null) =>
  queryOptions({
    queryKey: ["dispatch", run, "deliveries", search, state, response],
    queryFn: () =>
      take(
        client.GET("/api/runs/{run_id}/deliveries", {
          params: {
            path: { run_id: run },
            query: { search, ...(state ? { state } : {}), ...(response ? { response } : {}) },
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

export const traceQuery = (delivery: number) =>
  queryOptions({
    queryKey: ["trace", delivery],
    queryFn: () =>
      take(
        client.GET("/api/deliveries/{delivery_id}/trace", { params: { path: { delivery_id: delivery } } }),
      ),
    refetchInterval: 2000,
    placeholderData: keepPreviousData,
  });

export const sentQuery = (delivery: number) =>
  queryOptions({
    queryKey: ["trace", delivery, "message"],
    queryFn: () =>
      take(
        client.GET("/api/deliveries/{delivery_id}/message", { params: { path: { delivery_id: delivery } } }),
      ),
  });
