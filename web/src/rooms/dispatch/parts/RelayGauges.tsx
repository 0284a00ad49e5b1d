import type { Schemas } from "../../../api";
import { count, people } from "../../../core/words";
import classes from "./RelayGauges.module.css";

const WINDOWS: Record<number, string> = { 60: "minute", 3600: "hour", 86400: "24 hours" };

/** How much of a relay's limits is used, and what other runs will take of them. */
export function RelayGauges({ relay }: { relay: Schemas["RelayGauges"] }) {
  const others = relay.holders.map((one) => `“${one.campaign}” (${people(one.moving)})`).join(", ");
  return (
    <div>
      <b>{relay.name}</b>
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
      {others && <p className="soft">Hatched: what {others} will take.</p>}
    </div>
  );
}
