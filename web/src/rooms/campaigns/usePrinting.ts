import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take } from "../../api";
import { campaignQuery, printingQuery } from "./queries";

export type PrintingView = Schemas["PrintingView"];

/** Letters on paper of a campaign: laid out, and printed or thrown away. */
export function usePrinting(campaignId: number) {
  const queries = useQueryClient();
  const { data: view, error } = useQuery(printingQuery(campaignId));
  const path = { campaign_id: campaignId };
  const onSettled = () =>
    renew(
      queries,
      { queryKey: printingQuery(campaignId).queryKey, exact: true },
      { queryKey: campaignQuery(campaignId).queryKey, exact: true },
      "clearance",
      "contacts",
    );
  const making = useMutation({
    mutationFn: ({ paper, seen }: { paper: string; seen: number }) =>
      take(
        client.POST("/api/campaigns/{campaign_id}/letters", {
          params: { path },
          body: { paper: paper as Schemas["Paper"], seen_cleared: seen },
        }),
      ),
    onSettled,
  });
  const ending = useMutation({
    mutationFn: ({ id, printed }: { id: number; printed: boolean }) =>
      take(
        client.POST("/api/campaigns/{campaign_id}/letters/{printing_id}", {
          params: { path: { ...path, printing_id: id } },
          body: { printed },
        }),
      ),
    onSettled,
  });
  return {
    view,
    error: error ?? making.error ?? ending.error,
    making: making.isPending,
    layOut: (paper: string, seen: number) => making.mutate({ paper, seen }),
    end: (id: number, printed: boolean) => ending.mutateAsync({ id, printed }),
  };
}
