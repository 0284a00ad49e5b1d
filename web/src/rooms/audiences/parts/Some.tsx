import { Link } from "@tanstack/react-router";
import type { Schemas } from "../../../api";
import { count } from "../../../core/words";

/** Some people by name, each a link, and how many more there are. */
export function Some({ those, all }: { those: Schemas["SampledPerson"][]; all: number }) {
  if (all === 0) return null;
  return (
    <span className="soft">
      (
      {those.map((one, place) => (
        <span key={one.id}>
          {place > 0 && ", "}
          <Link to="/contacts" search={{ person: one.id }}>
            <bdi>{one.name || one.address || "no name"}</bdi>
          </Link>
        </span>
      ))}
      {all > those.length && ` and ${count(all - those.length)} more`})
    </span>
  );
}
