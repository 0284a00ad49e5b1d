export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
export { RelayGauges } from "./parts/RelayGauges";
export { dispatchQuery, movingIn } from "./queries";
export { isOpen, RUN_MARKS } from "./runStates";
