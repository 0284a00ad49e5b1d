import type { ReactNode } from "react";
import classes from "./PageHead.module.css";

/** A page's title, what it is about in a few words, and what one can do. */
export function PageHead({
  title,
  about,
  children,
}: {
  title: ReactNode;
  about?: ReactNode;
  children?: ReactNode;
}) {
  return (
    <header className={classes.head}>
      <h1>{title}</h1>
      {about && <span className="soft">{about}</span>}
      <span className={classes.room} />
      {children}
    </header>
  );
}
