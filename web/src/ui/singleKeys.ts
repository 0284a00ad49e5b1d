import { useLocalStorage } from "@mantine/hooks";

const PLACE = "uvarovite-single-keys";

/** Whether keys without Ctrl are commands: somebody who speaks to the machine, or whose hand slips, does without. */
export function useSingleKeys() {
  return useLocalStorage({ key: PLACE, defaultValue: true, getInitialValueInEffect: false });
}

/** The same at the moment of a key. */
export function singleKeysAreOn(): boolean {
  return localStorage.getItem(PLACE) !== "false";
}
