import { useDocumentVisibility } from "@mantine/hooks";
import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { renew } from "../../api";

/** What is on screen is asked for anew whenever something comes back; the server tells, and nobody asks again and again.
 *
 * Only while it is seen: a browser keeps few lines to a server, and a tab behind others must not take one.
 */
export function useLive(): void {
  const queries = useQueryClient();
  const isSeen = useDocumentVisibility() === "visible";
  useEffect(() => {
    if (!isSeen) return;
    const source = new EventSource("/api/responses/live");
    source.onmessage = () => void renew(queries, "responses");
    return () => source.close();
  }, [queries, isSeen]);
}
