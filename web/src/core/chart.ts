/** What the one kind of chart is made of: how many are out, over time. */
export interface Line {
  name: string;
  /** How many are out by when, in order. */
  points: { at: string; out: number }[];
  style: "planned" | "accepted" | "expected" | "late" | "ceiling";
}

/** One instant, in milliseconds since 1970, with what each line says at it, by its name. */
export type Row = { at: number } & Record<string, number>;

/** The lines as rows in order of time; `now` is among them. */
export function rowsOf(lines: readonly Line[], now?: string): Row[] {
  const rows = new Map<number, Row>();
  const row = (iso: string): Row => {
    const at = Date.parse(iso);
    const found = rows.get(at) ?? { at };
    rows.set(at, found);
    return found;
  };
  // Of two points at one instant the later says how many are out from then on.
  for (const { name, points } of lines) for (const { at, out } of points) row(at)[name] = out;
  if (now) row(now);
  return [...rows.values()].sort((one, other) => one.at - other.at);
}

/** At most `most` round steps from 0 up to a value, the value itself last. */
export function ticks(top: number, most = 4): number[] {
  if (top <= 0) return [0];
  const rough = top / most;
  const power = 10 ** Math.floor(Math.log10(rough));
  const step = Math.max(
    1,
    [1, 2, 5, 10].map((factor) => factor * power).find((size) => size >= rough) ?? rough,
  );
  const found: number[] = [];
  for (let at = 0; at < top - step / 2; at += step) found.push(Math.round(at));
  return [...found, top];
}
