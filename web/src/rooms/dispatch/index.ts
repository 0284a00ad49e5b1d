export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
export { PoolGauges } from "./parts/PoolGauges";
export { dispatchQuery, movingIn } from "./queries";
export { isOpen, RUN_MARKS } from "./runStates";
