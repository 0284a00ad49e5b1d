/** Scales and paths of the one chart style. */
export type Scale = (value: number) => number;

/** A linear scale from a domain to pixels; a domain of no width maps to the start. */
export function linear(from: readonly [number, number], to: readonly [number, number]): Scale {
  const width = from[1] - from[0];
  return (value) => (width === 0 ? to[0] : to[0] + ((value - from[0]) / width) * (to[1] - to[0]));
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

/** An SVG path through points. */
export function path(points: readonly (readonly [number, number])[]): string {
  return points.map(([x, y], index) => `${index ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");
}
