import { lazy, Suspense } from "react";
import { useWords } from "../../../api";
import { count } from "../../../core/words";
import classes from "./CurveChart.module.css";
import type { CurveProps } from "./CurveDrawing";

const CurveDrawing = lazy(() => import("./CurveDrawing"));

/** How many are out, over time. */
export function CurveChart(props: CurveProps) {
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
