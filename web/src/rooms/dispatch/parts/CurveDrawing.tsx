import "@mantine/charts/styles.css";
import { LineChart } from "@mantine/charts";
import { ReferenceArea } from "recharts";
import { useWords } from "../../../api";
import { type Line, rowsOf, ticks } from "../../../core/chart";
import { count } from "../../../core/words";
import classes from "./CurveDrawing.module.css";

export interface CurveProps {
  /** The top of the scale. */
  total: number;
  lines: Line[];
  /** A line at this instant. */
  now?: string | undefined;
  /** Nothing may go out in these. */
  closed?: { begins: string; ends: string }[] | undefined;
}

/** What was accepted is known from answer to answer, and stays until the next; what is planned goes on in between. */
const LOOKS: Record<Line["style"], { color: string; width: number; dashes?: string; type: CurveType }> = {
  planned: { color: "var(--ink-faint)", width: 1.4, dashes: "5 4", type: "linear" },
  accepted: { color: "var(--garnet)", width: 2.6, type: "stepAfter" },
  expected: { color: "var(--garnet-bright)", width: 1.7, dashes: "2 3", type: "linear" },
  late: { color: "var(--held-fill)", width: 1.4, type: "linear" },
  ceiling: { color: "var(--held)", width: 1.2, dashes: "5 4", type: "linear" },
};

type CurveType = "linear" | "stepAfter";

/** The drawing of a chart; it stands apart, since its library is loaded only where there is something to draw. */
export default function CurveDrawing({ total, lines, now, closed = [] }: CurveProps) {
  const words = useWords();
  const rows = rowsOf(lines, now);
  const from = rows[0]?.at ?? 0;
  const to = Math.max(rows.at(-1)?.at ?? 0, from + 1000);
  const label = (at: number) => {
    const iso = new Date(at).toISOString();
    return to - from < 180_000 ? words.seconds(iso) : words.moment(iso);
  };
  const steps = ticks(total);
  return (
    <LineChart
      h="100%"
      data={rows}
      dataKey="at"
      series={lines.map(({ name, style }) => {
        const { color, dashes } = LOOKS[style];
        return { name, color, ...(dashes && { strokeDasharray: dashes }) };
      })}
      lineProps={(series) => {
        const { width, type } = LOOKS[lines.find(({ name }) => name === series.name)?.style ?? "planned"];
        return { strokeWidth: width, type, isAnimationActive: false };
      }}
      connectNulls
      withDots={false}
      withLegend={lines.length > 1}
      legendProps={{ verticalAlign: "top", height: 30 }}
      gridAxis="x"
      strokeDasharray="0"
      tickLine="none"
      valueFormatter={(value) => count(Math.round(value))}
      xAxisProps={{
        type: "number",
        domain: [from, to],
        ticks: [from, to],
        interval: 0,
        tick: (tick) => <Instant {...tick} from={from} label={label} />,
      }}
      yAxisProps={{ domain: [0, Math.max(1, total)], ticks: steps, interval: 0, width: 64 }}
      tooltipProps={{
        // Nothing is pointed at before the pointer is there.
        labelFormatter: (at) => (at === undefined ? "" : label(Number(at))),
        isAnimationActive: false,
      }}
      referenceLines={now ? [{ x: Date.parse(now), color: "var(--ink)" }] : []}
      classNames={{ root: classes.root, axis: classes.axis, legend: classes.legend }}
    >
      {closed.map(({ begins, ends }) => (
        <ReferenceArea
          key={begins}
          x1={Math.max(Date.parse(begins), from)}
          x2={Math.min(Date.parse(ends), to)}
          fill="var(--rule)"
          fillOpacity={0.55}
          ifOverflow="hidden"
        />
      ))}
    </LineChart>
  );
}

interface InstantProps {
  x: number | string;
  y: number | string;
  payload: { value: number };
  from: number;
  label: (at: number) => string;
}

/** The first instant begins where the axis does, the last ends where it ends. */
function Instant({ x, y, payload, from, label }: InstantProps) {
  return (
    <text x={x} y={y} dy={12} textAnchor={payload.value === from ? "start" : "end"} className={classes.tick}>
      {label(payload.value)}
    </text>
  );
}
