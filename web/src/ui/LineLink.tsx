import { createLink } from "@tanstack/react-router";
import type { AnchorHTMLAttributes } from "react";
import classes from "./LineLink.module.css";

/** A line of a list that leads to what it stands for; the room says how its cells are laid out. */
export const LineLink = createLink(({ className, ...rest }: AnchorHTMLAttributes<HTMLAnchorElement>) => (
  <a className={`${classes.line} ${className ?? ""}`} {...rest} />
));
