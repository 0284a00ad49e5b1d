/** What is noted of those who open a message and follow its links. */
import type { components } from "./schema";

export type Tracked = components["schemas"]["Tracked"];

export const TRACKED: { value: Tracked; label: string }[] = [
  { value: "by_person", label: "noted by person" },
  { value: "counted", label: "counted, but not by whom" },
  { value: "off", label: "not noted at all" },
];

/** The same for one campaign, which may go by what holds for all. */
export const TRACKED_HERE: { value: Tracked | ""; label: string }[] = [
  { value: "", label: "as for all campaigns" },
  ...TRACKED,
];

export function trackedWords(level: Tracked | null): string {
  return TRACKED_HERE.find((one) => one.value === (level ?? ""))?.label ?? "";
}
