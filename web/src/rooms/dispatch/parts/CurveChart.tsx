import { useElementSize } from "@mantine/hooks";
import { useWords } from "../../../api";
import { linear, path, ticks } from "../../../core/chart";
import { count } from "../../../core/words";
import classes from "./CurveChart.module.css";

export interface Line {
  name: string;
  /** How many are out by when, in order. */
  points: { at: string; out: number }[];
  style: "planned" | "accepted" | "expected";
}

interface CurveChartProps {
  /** The top of the scale. */
  total: number;
  lines: Line[];
  /** A line at this instant, with its time. */
  now?: string | undefined;
}

const HEIGHT = 196;
const EDGE = { left: 52, right: 14, top: 22, bottom: 24 };

/** How many are out, over time. */
export function CurveChart({ total, lines, now }: CurveChartProps) {
  const { ref, width } = useElementSize();
  const words = useWords();
  const instants = lines.flatMap((line) => line.points.map((point) => Date.parse(point.at)));
  if (now) instants.push(Date.parse(now));
  const from = Math.min(...instants);
  const to = Math.max(...instants, from + 1000);
  const x = linear([from, to], [EDGE.left, Math.max(EDGE.left + 1, width - EDGE.right)]);
  const y = linear([0, Math.max(1, total)], [HEIGHT - EDGE.bottom, EDGE.top]);
  const ends = lines.map((line) => ({ line, last: line.points.at(-1) }));
  const label = (iso: number) =>
    to - from < 180_000
      ? words.seconds(new Date(iso).toISOString())
      : words.moment(new Date(iso).toISOString());
  return (
    <div ref={ref} className={classes.chart} style={{ height: HEIGHT + 2 }}>
      <svg
        width={Math.max(width, 100)}
        height={HEIGHT}
        role="img"
        aria-label={ends
          .map(({ line, last }) =>
            last ? `${line.name}: ${count(last.out)} by ${words.moment(last.at)}` : line.name,
          )
          .join("; ")}
      >
        {ticks(total).map((value) => (
          <g key={value}>
            <path d={`M${EDGE.left} ${y(value)}H${width - EDGE.right}`} className={classes.grid} />
            <text x={EDGE.left - 6} y={y(value) + 4} textAnchor="end" className={classes.tick}>
              {count(value)}
            </text>
          </g>
        ))}
        {lines.map((line) => (
          <path
            key={line.name}
            d={path(line.points.map((point) => [x(Date.parse(point.at)), y(point.out)] as const))}
            className={classes[line.style]}
          />
        ))}
        {[from, to].map((at, index) => (
          <text
            key={at}
            x={x(at)}
            y={HEIGHT - 8}
            textAnchor={index ? "end" : "start"}
            className={classes.tick}
          >
            {label(at)}
          </text>
        ))}
        {now && (
          <g>
            <path
              d={`M${x(Date.parse(now))} ${EDGE.top - 8}V${HEIGHT - EDGE.bottom}`}
              className={classes.now}
            />
          </g>
        )}
      </svg>
      {lines.length > 1 && (
        <div className={classes.legend}>
          {lines.map((line) => (
            <span key={line.name}>
              <svg width="26" height="8" aria-hidden="true">
                <path d="M1 4H25" className={classes[line.style]} />
              </svg>
              {line.name}
            </span>
          ))}
        </div>
      )}
    </div>
  );
}
