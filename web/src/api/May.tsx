import type { ReactNode } from "react";
import classes from "./May.module.css";
import { type Permission, useMay } from "./session";

interface MayProps {
  /** What it takes. */
  be: Permission;
  children: ReactNode;
}

/** Shown to those only who may do it. */
export function May({ be, children }: MayProps) {
  return useMay()(be) ? children : null;
}

/** For others it is there to be read: nothing in it can be changed, and it has no buttons. */
export function MayChange({ be, children }: MayProps) {
  const may = useMay()(be);
  return (
    <fieldset className={classes.bare} disabled={!may}>
      {children}
    </fieldset>
  );
}
