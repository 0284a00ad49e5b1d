import { Button } from "@mantine/core";
import type { Choice, Standing } from "../core/drafts";
import classes from "./Clashes.module.css";
import { Diamond } from "./Diamond";

interface ClashesProps {
  standing: Standing;
  onDecide: (key: string, choice: Choice) => void;
}

/** What two people changed at the same time: theirs beside mine, part by part, each to be decided. */
export function Clashes({ standing, onDecide }: ClashesProps) {
  if (standing.kind !== "clash") return null;
  return (
    <section className={classes.clashes} aria-label="Changed by two">
      <p>
        <Diamond state="attention" /> {standing.words} Nothing is lost: choose for each part what is to stand.
      </p>
      {standing.clashes.map((clash) => (
        <div key={clash.key} className={classes.clash}>
          <b>{clash.words}</b>
          <div className={classes.side}>
            <span className="soft">Yours</span>
            <span className={classes.value}>{clash.mine || <i>nothing</i>}</span>
            <Button size="compact-xs" onClick={() => onDecide(clash.key, "mine")}>
              Keep mine
            </Button>
          </div>
          <div className={classes.side}>
            <span className="soft">Theirs</span>
            <span className={classes.value}>{clash.theirs || <i>nothing</i>}</span>
            <Button size="compact-xs" onClick={() => onDecide(clash.key, "theirs")}>
              Take theirs
            </Button>
          </div>
          {clash.canBoth && (
            <Button size="compact-xs" onClick={() => onDecide(clash.key, "both")}>
              Both
            </Button>
          )}
        </div>
      ))}
    </section>
  );
}
