import { useQueryClient } from "@tanstack/react-query";
import { useEffect } from "react";
import { renew } from "../../api";

/** What is on screen is asked for anew whenever something comes back; the server tells, and nobody asks again and again. */
export function useLive(): void {
  const queries = useQueryClient();
  useEffect(() => {
    const source = new EventSource("/api/responses/live");
    source.onmessage = () => void renew(queries, "responses");
    return () => source.close();
  }, [queries]);
}
