import { useQuery } from "@tanstack/react-query";
import { count } from "../../../core/words";
import { PeopleLinks } from "../../../ui";
import { samplesQuery } from "../queries";
import classes from "./CriteriaSamples.module.css";

/** Some who match, and for each condition those whom it alone keeps out: a wrong condition shows itself. */
export function CriteriaSamples({ text, audienceId }: { text: string; audienceId: number | null }) {
  const { data } = useQuery(samplesQuery(text, audienceId));
  if (!data) return null;
  const near = data.near.filter((one) => one.count > 0);
  return (
    <section className={classes.samples} aria-label="Examples">
      <p>
        <b>Among them</b> {data.matching.length > 0 ? <PeopleLinks people={data.matching} /> : "nobody"}
      </p>
      {near.length > 0 && (
        <div className={classes.near}>
          <b>Just outside</b>
          <ul>
            {near.map((one) => (
              <li key={one.condition}>
                {count(one.count)} but for <span className="mono">{one.condition}</span>:{" "}
                <PeopleLinks people={one.people} />
                {one.count > one.people.length && " …"}
              </li>
            ))}
          </ul>
        </div>
      )}
    </section>
  );
}
