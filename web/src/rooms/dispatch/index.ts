export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
export { PoolGauges } from "./parts/PoolGauges";
export { SentMessage } from "./parts/SentMessage";
export { TraceSteps } from "./parts/TraceSteps";
export { dispatchQuery, movingIn, rehearsalQuery, sentQuery, traceQuery } from "./queries";
export { RehearsedRun } from "./RehearsedRun";
export { isOpen, RUN_MARKS } from "./runStates";
