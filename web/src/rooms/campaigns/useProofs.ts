import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useRef } from "react";
import { client, renew, type Schemas, take, useMay } from "../../api";
import { campaignQuery, proofsQuery } from "./queries";

export type ProofSheet = Schemas["ProofSheetView"];

interface Proofs {
  sheet: ProofSheet | undefined;
  error: unknown;
  /** Make a sheet of what is saved now. */
  make: () => void;
  tick: (proof: Schemas["ProofView"], right: boolean) => void;
}

/** The proofs of a campaign; a sheet that is not of what is saved now is made anew when somebody comes to see it. */
export function useProofs(campaignId: number): Proofs {
  const queries = useQueryClient();
  const may = useMay()("write");
  const { data: sheet, error } = useQuery(proofsQuery(campaignId));
  const path = { campaign_id: campaignId };
  const took = (next: ProofSheet) => {
    queries.setQueryData(proofsQuery(campaignId).queryKey, next);
    void renew(queries, { queryKey: campaignQuery(campaignId).queryKey, exact: true });
  };
  const making = useMutation({
    mutationFn: () => take(client.POST("/api/campaigns/{campaign_id}/proofs", { params: { path } })),
    onSuccess: took,
  });
  const ticking = useMutation({
    mutationFn: ({ contactId, digest, right }: { contactId: number; digest: string; right: boolean }) =>
      take(
        client.PUT("/api/campaigns/{campaign_id}/proofs/{contact_id}", {
          params: { path: { ...path, contact_id: contactId } },
          body: { digest, right },
        }),
      ),
    onSuccess: took,
  });
  const begun = useRef(false);
  const wanted = may && sheet?.stale === true && !sheet.making;
  const { mutate } = making;
  useEffect(() => {
    if (!wanted || begun.current) return;
    begun.current = true;
    mutate();
  }, [wanted, mutate]);
  return {
    sheet,
    error: error ?? making.error ?? ticking.error,
    make: () => making.mutate(),
    tick: (proof, right) => ticking.mutate({ contactId: proof.contact_id, digest: proof.digest, right }),
  };
}
