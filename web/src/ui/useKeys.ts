import { useEffect } from "react";
import { singleKeysAreOn } from "./singleKeys";

/** Single keys as commands, unless somebody is writing into something or has switched them off; Esc works always. */
export function useKeys(keys: Record<string, () => void>): void {
  useEffect(() => {
    function press(event: KeyboardEvent) {
      const target = event.target as HTMLElement;
      const writing = target.isContentEditable || /^(INPUT|TEXTAREA|SELECT)$/.test(target.tagName);
      const act = keys[event.key];
      if (!act || writing || event.ctrlKey || event.metaKey || event.altKey) return;
      if (event.key !== "Escape" && !singleKeysAreOn()) return;
      event.preventDefault();
      act();
    }
    window.addEventListener("keydown", press);
    return () => window.removeEventListener("keydown", press);
  }, [keys]);
}
