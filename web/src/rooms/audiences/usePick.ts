import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, take, wordsOf } from "../../api";
import { announce } from "../../ui";
import { ABOUT_AUDIENCES } from "./queries";

export interface Pick {
  id: number;
  /** null: the criteria alone decide again. */
  kind: "added" | "left_out" | null;
}

/** Add somebody to an audience by hand, leave them out, or take that back. */
export function usePick(audienceId: number | null) {
  const queries = useQueryClient();
  return useMutation({
    mutationFn: async ({ id, kind }: Pick) => {
      const path = { params: { path: { audience_id: audienceId ?? 0, contact_id: id } } };
      await (kind === null
        ? take(client.DELETE("/api/audiences/{audience_id}/members/{contact_id}", path))
        : take(client.PUT("/api/audiences/{audience_id}/members/{contact_id}", { ...path, body: { kind } })));
    },
    onSuccess: () => void renew(queries, ...ABOUT_AUDIENCES),
    onError: (fault) => announce(wordsOf(fault), { bad: true }),
  });
}
