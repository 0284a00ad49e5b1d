import { Trouble } from "./Trouble";

interface OthersDraftsProps {
  others: { by: string; at: string }[];
  /** What they are changing, such as "this message". */
  what: string;
  moment: (iso: string) => string;
}

/** Who else has changed this and not saved it. */
export function OthersDrafts({ others, what, moment }: OthersDraftsProps) {
  if (others.length === 0) return null;
  return (
    <Trouble tone="held">
      {others.map((one) => `${one.by} is changing ${what}, too (not saved, ${moment(one.at)})`).join("; ")}.
      What you change apart from each other comes together when it is saved.
    </Trouble>
  );
}
