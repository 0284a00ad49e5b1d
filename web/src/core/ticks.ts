/** Which rows are ticked. All that match is something else than all that are loaded: it includes what nobody has seen. */
export interface Ticks {
  ids: ReadonlySet<number>;
  /** Everybody who matches, loaded or not. */
  all: boolean;
  /** Where the last tick was set, for Shift. */
  anchor: number | null;
}

export const NO_TICKS: Ticks = { ids: new Set(), all: false, anchor: null };

/** With one row ticked or not. */
export function toggleTick(ticks: Ticks, id: number): Ticks {
  const ids = new Set(ticks.ids);
  if (!ids.delete(id)) ids.add(id);
  return { ids, all: false, anchor: id };
}

/** With every row between the last tick and this one ticked, in the order of the table. */
export function tickRange(ticks: Ticks, order: number[], id: number): Ticks {
  const from = ticks.anchor === null ? -1 : order.indexOf(ticks.anchor);
  const to = order.indexOf(id);
  if (from < 0 || to < 0) return toggleTick(ticks, id);
  const between = order.slice(Math.min(from, to), Math.max(from, to) + 1);
  return { ids: new Set([...ticks.ids, ...between]), all: false, anchor: ticks.anchor };
}

/** With all rows on the page ticked, or none when they all were. */
export function tickPage(ticks: Ticks, order: number[]): Ticks {
  const every = order.length > 0 && order.every((id) => ticks.ids.has(id));
  return every ? NO_TICKS : { ids: new Set(order), all: false, anchor: null };
}

/** Everybody who matches. */
export const tickAll = (): Ticks => ({ ids: new Set(), all: true, anchor: null });

export const isTicked = (ticks: Ticks, id: number): boolean => ticks.all || ticks.ids.has(id);

/** How many are ticked, of so many that match. */
export const tickedCount = (ticks: Ticks, matching: number): number =>
  ticks.all ? matching : ticks.ids.size;
