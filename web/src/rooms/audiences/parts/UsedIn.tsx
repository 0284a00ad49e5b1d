import { Link } from "@tanstack/react-router";
import { Fragment } from "react";
import type { Schemas } from "../../../api";

/** What uses an audience, each a link. */
export function UsedIn({ used }: { used: Schemas["UsedIn"][] }) {
  if (used.length === 0) return <>not used yet</>;
  return (
    <>
      used by{" "}
      {used.map((use, place) => (
        <Fragment key={`${use.kind} ${use.id}`}>
          {place > 0 && ", "}
          {use.kind === "campaign" ? (
            <Link to="/campaigns/$id" params={{ id: String(use.id) }}>
              {use.name}
            </Link>
          ) : (
            <Link to="/audiences/$id" params={{ id: String(use.id) }}>
              audience {use.name}
            </Link>
          )}
        </Fragment>
      ))}
    </>
  );
}
