import type { Schemas } from "../../api";
import type { DiamondState } from "../../ui";

type RunState = Schemas["RunState"];

/** How a run stands, as a mark. */
export const RUN_MARKS: Record<RunState, DiamondState> = {
  going: "half",
  paused: "attention",
  ended: "done",
  stopped: "bad",
};

/** Has it something left to send? */
export const isOpen = (state: RunState): boolean => state === "going" || state === "paused";
