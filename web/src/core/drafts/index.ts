export { type After, Collision, Keeper, type Kept, Refused, SignedOut, type Standing } from "./keeper";
export {
  type Choice,
  type Clash,
  fixedParts,
  member,
  merge,
  mergeOrder,
  type Part,
  type Parts,
  same,
} from "./merge";
export { type DraftState, type KeptDraft, OpenDraft, type Unkept } from "./openDraft";
