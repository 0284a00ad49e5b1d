import type { ReactNode } from "react";
import { Diamond } from "./Diamond";
import classes from "./Empty.module.css";

/** An empty place that says what to do first. */
export function Empty({ title, children }: { title: string; children?: ReactNode }) {
  return (
    <div className={classes.empty}>
      <Diamond state="later" size={28} />
      <h2>{title}</h2>
      <div className="soft">{children}</div>
    </div>
  );
}
