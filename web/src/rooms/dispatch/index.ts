export { Dispatch } from "./Dispatch";
export { CurveChart } from "./parts/CurveChart";
