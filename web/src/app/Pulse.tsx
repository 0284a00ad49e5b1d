import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useWords } from "../api";
import { percent } from "../core/words";

import { deskQuery } from "../rooms/desk";
import { dispatchQuery, isOpen, movingIn } from "../rooms/dispatch";
import classes from "./Pulse.module.css";

// A run that is on screen is asked for every four seconds at least.
const STALE = 6_000;

/** What is going out right now, and when it ends; a click leads to its dispatch. */
export function Pulse() {
  const { data: desk } = useQuery({ ...deskQuery, refetchInterval: 3000 });
  const words = useWords();
  const going = desk?.runs.filter((run) => isOpen(run.state)) ?? [];
  const run = going[0];
  // Where the run itself is looked at, its figure is the newer one: both say the same then.
  const { data: seen, dataUpdatedAt } = useQuery({ ...dispatchQuery(run?.run_id ?? 0), enabled: false });
  if (!run) return <span className={classes.quiet}>nothing is going out</span>;
  const looked = seen && Date.now() - dataUpdatedAt < STALE ? seen : undefined;
  const left = looked ? movingIn(looked) : run.moving;
  const { state, ends_at } = looked ?? run;
  const end = state === "paused" ? "paused" : ends_at ? `ends ${words.moment(ends_at)}` : "ending";
  return (
    <Link
      to="/campaigns/$id"
      params={{ id: String(run.campaign_id) }}
      search={{ stop: "dispatch", run: run.run_id }}
      className={classes.pulse}
      title={run.campaign}
    >
      <span className={classes.track} aria-hidden="true">
        <i style={{ width: `${(100 * (run.planned - left)) / Math.max(1, run.planned)}%` }} />
      </span>
      {percent(run.planned - left, run.planned)} · {end}
      {going.length > 1 ? ` · +${going.length - 1}` : ""}
    </Link>
  );
}
