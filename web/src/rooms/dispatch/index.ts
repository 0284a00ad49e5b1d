export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
export { dispatchQuery, movingIn } from "./queries";
export { isOpen, RUN_MARKS } from "./runStates";
