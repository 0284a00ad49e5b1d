import { queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const campaignsQuery = queryOptions({
  queryKey: ["campaigns"],
  queryFn: () => take(client.GET("/api/campaigns")),
});

/** The paces that one can begin from. */
export const pacesQuery = queryOptions({
  queryKey: ["paces"],
  queryFn: () => take(client.GET("/api/campaigns/paces")),
  staleTime: Number.POSITIVE_INFINITY,
});

/** When a release has to be at the latest, to be through by then; `of` says what that is worked out from. */
export const lastMomentQuery = (id: number, doneBy: string, of: string) =>
  queryOptions({
    queryKey: ["campaigns", id, "last moment", doneBy, of],
    queryFn: () =>
      take(
        client.GET("/api/campaigns/{campaign_id}/last-moment", {
          params: { path: { campaign_id: id }, query: { done_by: doneBy } },
        }),
      ),
    enabled: doneBy !== "",
    gcTime: 0,
  });

export const campaignQuery = (id: number) =>
  queryOptions({
    queryKey: ["campaigns", id],
    queryFn: () =>
      take(client.GET("/api/campaigns/{campaign_id}", { params: { path: { campaign_id: id } } })),
  });

/** The campaign as it is about to be released; who is cleared is kept on the server, for those who may change it.
 *
 * `of` says which revisions it is of.
 */
export const previewQuery = (id: number, of: string, { keep }: { keep: boolean }) =>
  queryOptions({
    queryKey: ["campaigns", id, "preview", of],
    queryFn: () => {
      const path = { params: { path: { campaign_id: id } } };
      return keep
        ? take(client.POST("/api/campaigns/{campaign_id}/preview", path))
        : take(client.GET("/api/campaigns/{campaign_id}", path));
    },
    staleTime: 0,
    gcTime: 0,
    refetchOnMount: "always",
    refetchOnWindowFocus: false,
  });

/** How many of those who are cleared have nothing in each field, by its key. */
export const blanksQuery = (id: number) =>
  queryOptions({
    queryKey: ["campaigns", id, "blanks"],
    queryFn: () =>
      take(client.GET("/api/campaigns/{campaign_id}/blanks", { params: { path: { campaign_id: id } } })),
  });

/** How many of the cleared people read each branch of the words, as they are on screen. */
export const branchesQuery = (
  id: number,
  ask: { branches: string[][]; language: string; others: string[] },
) =>
  queryOptions({
    queryKey: ["campaigns", id, "branches", ask],
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/campaigns/{campaign_id}/branches", {
          signal,
          params: { path: { campaign_id: id } },
          body: ask,
        }),
      ),
    enabled: ask.branches.length > 0,
  });

/** The rehearsals of a campaign; asked for again while one is going. */
export const rehearsalsQuery = (id: number) =>
  queryOptions({
    queryKey: ["rehearsals", "of", id],
    queryFn: () =>
      take(client.GET("/api/campaigns/{campaign_id}/rehearsals", { params: { path: { campaign_id: id } } })),
    refetchInterval: (query) =>
      query.state.data?.rehearsals.some((one) => one.state === "waiting" || one.state === "going")
        ? 1000
        : false,
    refetchOnMount: "always",
  });

/** Letters on paper of a campaign; asked for again while they are being laid out. */
export const printingQuery = (id: number) =>
  queryOptions({
    queryKey: ["campaigns", id, "letters"],
    queryFn: () =>
      take(client.GET("/api/campaigns/{campaign_id}/letters", { params: { path: { campaign_id: id } } })),
    refetchInterval: (query) => (query.state.data?.open?.state === "making" ? 700 : false),
    refetchOnMount: "always",
  });

/** The sheet of proofs of a campaign; asked for again while a newer one is being made. */
export const proofsQuery = (id: number) =>
  queryOptions({
    queryKey: ["proofs", id],
    queryFn: () =>
      take(client.GET("/api/campaigns/{campaign_id}/proofs", { params: { path: { campaign_id: id } } })),
    refetchInterval: (query) => (query.state.data?.making ? 700 : false),
    refetchOnMount: "always",
  });
