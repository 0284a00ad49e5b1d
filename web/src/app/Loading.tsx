import { useIsFetching } from "@tanstack/react-query";
import classes from "./Loading.module.css";

/** A line below the bar while something is fetched that is not on screen yet; what is only refreshed is not told. */
export function Loading() {
  const missing = useIsFetching({ predicate: (query) => query.state.data === undefined });
  return (
    <div
      className={classes.loading}
      data-busy={missing > 0 || undefined}
      role="progressbar"
      aria-label="Loading"
    />
  );
}
