/** Blocks for some people only, whose readers can be counted. */
import type { Block } from "./content";

export interface Branches {
  /** The block. */
  id: string;
  /** The criteria of its arms, in their order. */
  criteria: string[];
}

/** How many read each arm of a block, by its id, and behind them how many everybody else are; null where it is not known. */
export type Readers = Record<string, readonly (number | null)[]>;

/** As many as are counted at once. */
const MOST = 40;
const MOST_ARMS = 12;

/** Those that stand in no other such block, and in nothing that is repeated: whoever reads them is told by them alone. */
export function branchesOf(blocks: readonly Block[]): Branches[] {
  return blocks
    .flatMap((block) =>
      block.kind === "only"
        ? [{ id: block.id, criteria: block.arms.map((arm) => arm.criteria) }]
        : block.kind === "columns"
          ? block.columns.flatMap(branchesOf)
          : [],
    )
    .filter((one) => one.id && one.criteria.length <= MOST_ARMS)
    .slice(0, MOST);
}
