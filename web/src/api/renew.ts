import type { QueryClient } from "@tanstack/react-query";

/** Ask anew for everything below these keys.
 *
 * What was asked before is called off: an answer from before the change would be taken for one from after it.
 */
export async function renew(queries: QueryClient, ...keys: string[]): Promise<void> {
  for (const key of keys) {
    await queries.cancelQueries({ queryKey: [key] });
    void queries.invalidateQueries({ queryKey: [key] });
  }
}
