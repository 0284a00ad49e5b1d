import type { ReactNode } from "react";
import { Diamond } from "./Diamond";
import classes from "./Trouble.module.css";

/** What went wrong or needs somebody, with what to do. */
export function Trouble({ tone = "bad", children }: { tone?: "bad" | "held"; children: ReactNode }) {
  return (
    <div className={classes.trouble} data-tone={tone} role={tone === "bad" ? "alert" : "status"}>
      <Diamond state={tone === "bad" ? "bad" : "attention"} />
      <div>{children}</div>
    </div>
  );
}
