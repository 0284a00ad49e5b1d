import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, renew, type Schemas, take } from "../../api";

/** Sends tests one after the other; `done` counts those that the relay took. Its last answer tells how it ended. */
export function useTestSends() {
  const queries = useQueryClient();
  const [done, setDone] = useState(0);
  const send = useMutation({
    mutationFn: async (asks: Schemas["TestAsk"][]) => {
      setDone(0);
      let last: Schemas["HandedOver"] | undefined;
      for (const [index, body] of asks.entries()) {
        last = await take(client.POST("/api/test-send", { body }));
        // What the relay refuses once it refuses for the others too.
        if (!last.accepted) break;
        setDone(index + 1);
      }
      return last;
    },
    // What was tested stands on the run sheet.
    onSettled: () => renew(queries, "campaigns"),
  });
  return { send, done };
}
