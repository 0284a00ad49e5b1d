import type { Schemas } from "../../api";
import type { Line } from "../../core/chart";

/** The curves of a run: as it was planned, as it went, and as it is expected to go on from `now`. */
export function linesOf(view: Schemas["DispatchView"], now: string | undefined): Line[] {
  const start = { at: view.released_at, out: 0 };
  // Up to now the curve is flat where nothing was accepted; what is expected goes on from there.
  const here = now ? [{ at: now, out: view.states.accepted ?? 0 }] : [];
  const lines: Line[] = [
    { name: "planned", style: "planned", points: view.planned_curve },
    { name: "accepted", style: "accepted", points: [start, ...view.accepted_curve, ...here] },
  ];
  if (view.expected) lines.push({ name: "expected", style: "expected", points: view.expected.curve });
  return lines;
}
