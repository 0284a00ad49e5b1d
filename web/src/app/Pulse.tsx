import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useWords } from "../api";
import { percent } from "../core/words";
import { deskQuery } from "../rooms/desk";
import classes from "./Pulse.module.css";

/** What is going out right now, and when it ends; a click leads to its dispatch. */
export function Pulse() {
  const { data: desk } = useQuery({ ...deskQuery, refetchInterval: 3000 });
  const words = useWords();
  const going = desk?.runs.filter((run) => run.state === "going" || run.state === "paused") ?? [];
  const run = going[0];
  if (!run) return <span className={classes.quiet}>nothing is going out</span>;
  const end =
    run.state === "paused" ? "paused" : run.ends_at ? `ends ${words.moment(run.ends_at)}` : "ending";
  return (
    <Link
      to="/campaigns/$id"
      params={{ id: String(run.campaign_id) }}
      search={{ stop: "dispatch", run: run.run_id }}
      className={classes.pulse}
      title={run.campaign}
    >
      <span className={classes.track} aria-hidden="true">
        <i style={{ width: `${(100 * (run.planned - run.moving)) / Math.max(1, run.planned)}%` }} />
      </span>
      {percent(run.planned - run.moving, run.planned)} · {end}
      {going.length > 1 ? ` · +${going.length - 1}` : ""}
    </Link>
  );
}
