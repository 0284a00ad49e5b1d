import { type Schemas, useWords } from "../../../api";
import { count, people } from "../../../core/words";
import classes from "./PoolGauges.module.css";

type Relay = Schemas["RelayGauges"];

const WINDOWS: Record<number, string> = { 60: "minute", 3600: "hour", 86400: "24 hours" };

/** What each relay of a pool does, how much of its limits is used, and what other runs will take of them. */
export function PoolGauges({ pool }: { pool: Schemas["PoolGauges"] }) {
  const others = pool.holders.map((one) => `“${one.campaign}” (${people(one.moving)})`).join(", ");
  return (
    <div>
      {pool.relays.map((relay) => (
        <RelayGauge
          key={relay.name}
          relay={relay}
          isAlone={pool.relays.length === 1}
          isTold={relay.trouble === pool.trouble}
        />
      ))}
      {pool.relays.length === 0 && <p className="soft">There is no relay in this pool.</p>}
      {others && <p className="soft">Hatched: what {others} will take.</p>}
    </div>
  );
}

/** `isTold`: its trouble stands above the gauges already. */
function RelayGauge({ relay, isAlone, isTold }: { relay: Relay; isAlone: boolean; isTold: boolean }) {
  const words = useWords();
  const until = relay.until ? ` until ${words.moment(relay.until)}` : "";
  const doing: Record<Relay["doing"], string> = {
    carries: relay.trouble ? "is tried again" : "carries it",
    full: `has no room${until}`,
    stands_by: "stands by",
    tried: "is tried again",
    rests: `rests${until}`,
  };
  return (
    <div className={classes.relay}>
      <b>{relay.name}</b>
      {(!isAlone || relay.doing !== "carries") && <span className="soft"> {doing[relay.doing]}</span>}
      {relay.trouble && !isTold && <p>{relay.trouble}</p>}
      {relay.limits.length === 0 && <p className="soft">It has no limits of its own.</p>}
      {relay.limits.map((limit) => {
        const share = (n: number) => `${Math.min(100, (100 * n) / limit.most)}%`;
        return (
          <div key={limit.seconds} className={classes.gauge}>
            <span className="soft">{WINDOWS[limit.seconds] ?? `${limit.seconds} s`}</span>
            <span className={classes.track} aria-hidden="true">
              <i style={{ width: share(limit.used) }} />
              <s style={{ width: share(Math.min(limit.held, limit.most - limit.used)) }} />
            </span>
            <span>
              {count(limit.used)} of {count(limit.most)}
            </span>
          </div>
        );
      })}
    </div>
  );
}
