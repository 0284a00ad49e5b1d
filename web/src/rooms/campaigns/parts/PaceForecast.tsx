import { TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Schemas, useWords, wordsOf } from "../../../api";
import type { Line } from "../../../core/chart";
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
}

/** When it would be done, the curve, what it waits for, and how late it may begin. */
export function PaceForecast({ campaign, forecast, saved }: PaceForecastProps) {
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
