import { useEffect } from "react";

/** Esc closes what is open, and only that, wherever the keyboard is: what was ticked may have gone, and its focus too. */
export function useEscape(opened: boolean, close: () => void): void {
  useEffect(() => {
    if (!opened) return;
    function press(event: KeyboardEvent) {
      if (event.key !== "Escape") return;
      event.stopImmediatePropagation();
      close();
    }
    window.addEventListener("keydown", press, true);
    return () => window.removeEventListener("keydown", press, true);
  }, [opened, close]);
}
