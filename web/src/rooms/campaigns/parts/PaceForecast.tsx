import { Slider, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { MayChange, type Schemas, useWords, wordsOf } from "../../../api";
import type { Line } from "../../../core/chart";
import { evenly, type Pace, placeOf, secondsAt } from "../../../core/pace";
import { count, duration, percent } from "../../../core/words";
import { Trouble } from "../../../ui";
import { CurveChart } from "../../dispatch";
import { lastMomentQuery } from "../queries";
import type { Campaign } from "../useCampaign";
import classes from "./PaceStop.module.css";

interface PaceForecastProps {
  campaign: Campaign;
  forecast: Schemas["ForecastView"];
  /** Is the forecast of what is on screen? */
  saved: boolean;
  onChange: (pace: Partial<Pace>) => void;
}

/** When it would be done, the curve, what it waits for, and how late it may begin. */
export function PaceForecast({ campaign, forecast, saved, onChange }: PaceForecastProps) {
  const words = useWords();
  const [asTable, setAsTable] = useState(false);
  const cleared = campaign.clearance?.cleared ?? 0;
  if (cleared === 0) return <h2>Nobody would get it</h2>;
  const takes = forecast.end ? (Date.parse(forecast.end) - Date.parse(forecast.start)) / 1000 : undefined;
  const lines: Line[] = [{ name: "forecast", points: forecast.curve, style: "expected" }];
  // Those who are told to come back are worth a line of their own where it can be told from the other.
  if (forecast.late.length > 1)
    lines.push({ name: "with those told to come back", points: forecast.late, style: "late" });
  const top = forecast.ceiling.filter(({ at }) => !forecast.end || at <= forecast.end);
  if (top.length > 1 && forecast.ceiling.at(-1)?.at !== forecast.end)
    lines.push({ name: "the relay’s ceiling", points: top, style: "ceiling" });
  return (
    <section className={classes.forecast} data-stale={!saved || undefined} aria-label="Forecast">
      <h2>
        {forecast.end
          ? `${campaign.planned ? `Released ${words.moment(forecast.start)}` : "If released now"}: done at ${words.moment(forecast.end)} (${duration(takes ?? 0)})`
          : "It would take longer than twenty years"}
      </h2>
      <CurveChart total={cleared} lines={lines} closed={forecast.closed} />
      <MayChange be="write">
        <Spread cleared={cleared} takes={takes} pace={campaign.pace} onSpread={onChange} />
      </MayChange>
      {forecast.waited.length > 0 && (
        <p>
          Most of the time goes by waiting for{" "}
          {forecast.waited
            .slice(0, 3)
            .map((one) => `${one.words} (${duration(one.seconds)})`)
            .join(", ")}
          .
        </p>
      )}
      <DoneBy campaign={campaign} saved={saved} />
      <p className="soft">
        {forecast.late.length > 1 && forecast.late_end
          ? `${percent(forecast.late_share * 1000, 1000)} were told to come back later last time; if as many are again, the last is through ${words.moment(forecast.late_end)}. `
          : "Those who are told to come back later take longer: the relay decides when. "}
        {forecast.closed.length > 0 && "Shaded: nothing goes out then. "}
        <button type="button" className={classes.asText} onClick={() => setAsTable(!asTable)}>
          {asTable ? "Without the table" : "As a table"}
        </button>
      </p>
      {asTable && (
        <table className={classes.table}>
          <thead>
            <tr>
              <th>By</th>
              <th>are out</th>
              <th>of all</th>
            </tr>
          </thead>
          <tbody>
            {tenths(forecast.curve).map(({ at, out }) => (
              <tr key={`${at} ${out}`}>
                <td>{words.moment(at)}</td>
                <td>{count(out)}</td>
                <td>{percent(out, cleared)}</td>
              </tr>
            ))}
          </tbody>
        </table>
      )}
    </section>
  );
}

interface SpreadProps {
  cleared: number;
  /** In seconds; undefined where it takes longer than can be told. */
  takes: number | undefined;
  pace: Pick<Pace, "batch_size" | "gap_seconds">;
  onSpread: (pace: Partial<Pace>) => void;
}

/** The curve is drawn out, or together: its end is dragged to when it is to be done. */
function Spread({ cleared, takes, pace, onSpread }: SpreadProps) {
  const [at, setAt] = useState<number>();
  const meant = at === undefined ? undefined : evenly(cleared, secondsAt(at) / 3600);
  const [isDragged, setDragged] = useState(false);
  // It stays where it was put as long as the pace is the one that was put there.
  const stays =
    isDragged || (meant?.batch_size === pace.batch_size && meant.gap_seconds === pace.gap_seconds);
  return (
    <div className={classes.spread}>
      <span className="soft">Drag to spread it evenly</span>
      <Slider
        size="sm"
        thumbLabel="Spread it evenly over this time"
        value={at !== undefined && stays ? at : placeOf(takes ?? Number.POSITIVE_INFINITY)}
        label={(place) => duration(secondsAt(place))}
        onChange={(place) => {
          setDragged(true);
          setAt(place);
        }}
        onChangeEnd={(place) => {
          setDragged(false);
          onSpread(evenly(cleared, secondsAt(place) / 3600));
        }}
      />
    </div>
  );
}

/** About ten points of a curve, the last among them. */
function tenths<T>(points: T[]): T[] {
  const step = Math.max(1, Math.ceil(points.length / 10));
  return points.filter((_, place) => (points.length - 1 - place) % step === 0);
}

/** Working backwards: when it has to be released, to be through by then. */
function DoneBy({ campaign, saved }: { campaign: Campaign; saved: boolean }) {
  const words = useWords();
  const [by, setBy] = useState("");
  const { data, error, isFetching } = useQuery({
    ...lastMomentQuery(campaign.id, by, String(campaign.revision)),
    enabled: by !== "" && saved,
  });
  return (
    <div className={classes.back}>
      <TextInput
        type="datetime-local"
        size="xs"
        label="It must be done by"
        value={by}
        onChange={(event) => setBy(event.currentTarget.value)}
      />
      <output aria-live="polite">
        {by === "" ? (
          <span className="soft">Say when, and it is worked out how late it may be released.</span>
        ) : error ? (
          <Trouble>{wordsOf(error)}</Trouble>
        ) : !data || isFetching ? null : data.latest ? (
          <>
            → release at the latest <b>{words.moment(data.latest)}</b>.
          </>
        ) : (
          <>→ that is too soon for this pace, even if it is released now.</>
        )}
      </output>
    </div>
  );
}
