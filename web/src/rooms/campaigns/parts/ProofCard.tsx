import { VisuallyHidden } from "@mantine/core";
import type { Schemas } from "../../../api";
import { count } from "../../../core/words";
import { Diamond, SmallLetter } from "../../../ui";
import classes from "./ProofsStop.module.css";

interface ProofCardProps {
  proof: Schemas["ProofView"];
  chosen: boolean;
  onChoose: () => void;
}

/** A small letter that says why it is there. */
export function ProofCard({ proof, chosen, onChoose }: ProofCardProps) {
  const [first, ...more] = proof.shows;
  return (
    <li className={classes.card} data-chosen={chosen || undefined}>
      <button type="button" className={classes.pick} aria-pressed={chosen} onClick={onChoose}>
        <span className={classes.why}>
          <Diamond state={proof.seen_at ? "done" : "open"} size={13} />
          {proof.seen_at && <VisuallyHidden>Found right:</VisuallyHidden>}
          <b>
            {first ?? "What everybody reads"}
            {more.length > 0 && <span className="soft"> and {more.length} more</span>}
          </b>
        </span>
        <SmallLetter html={proof.html} />
        <span className={classes.who}>
          <bdi>{proof.name}</bdi>
          {proof.people > 1 && <span className="faint">stands for {count(proof.people)}</span>}
        </span>
      </button>
    </li>
  );
}
