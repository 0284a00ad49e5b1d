export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
export { PoolGauges } from "./parts/PoolGauges";
export { dispatchQuery, movingIn, rehearsalQuery } from "./queries";
export { RehearsedRun } from "./RehearsedRun";
export { isOpen, RUN_MARKS } from "./runStates";
