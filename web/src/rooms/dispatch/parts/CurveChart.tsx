import { lazy, Suspense } from "react";
import { useWords } from "../../../api";
import type { Line } from "../../../core/chart";
import { count } from "../../../core/words";
import classes from "./CurveChart.module.css";

const CurveDrawing = lazy(() => import("./CurveDrawing"));

export interface CurveChartProps {
  /** The top of the scale. */
  total: number;
  lines: Line[];
  /** A line at this instant. */
  now?: string | undefined;
}

/** How many are out, over time. */
export function CurveChart(props: CurveChartProps) {
  const words = useWords();
  const said = props.lines.map(({ name, points }) => {
    const last = points.at(-1);
    return last ? `${name}: ${count(last.out)} by ${words.moment(last.at)}` : name;
  });
  return (
    <div className={classes.chart} role="img" aria-label={said.join("; ")}>
      <Suspense fallback={null}>
        <CurveDrawing {...props} />
      </Suspense>
    </div>
  );
}
