export { ButtonLink } from "./ButtonLink";
export { Diamond, type DiamondState } from "./Diamond";
export { Empty } from "./Empty";
export { Letter } from "./Letter";
export { Mark } from "./Mark";
export { PageHead } from "./PageHead";
export { Trouble } from "./Trouble";
export { useKeys } from "./useKeys";
