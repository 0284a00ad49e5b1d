import type { Schemas } from "../../api";

/** How often an audience is used, in words. */
export function uses(used: Schemas["UsedIn"][]): string {
  if (used.length === 0) return "not used yet";
  const of = (kind: string, one: string, many: string) => {
    const n = used.filter((use) => use.kind === kind).length;
    return n === 0 ? [] : [n === 1 ? `1 ${one}` : `${n} ${many}`];
  };
  return [...of("campaign", "campaign", "campaigns"), ...of("audience", "audience", "audiences")].join(", ");
}
