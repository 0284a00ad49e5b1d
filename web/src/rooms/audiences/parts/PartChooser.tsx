import { Button, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { vocabularyQuery } from "../../../api";
import { type AudiencePart, FIRST_PART, type Places, partBy } from "../../../core/parts";
import { NumberField } from "../../../ui";
import classes from "./PartChooser.module.css";

interface PartChooserProps {
  part: AudiencePart | null;
  onPart: (part: AudiencePart | null) => void;
}

/** Which part of those who match the audience consists of: all, the first, a range, or a random share. */
export function PartChooser({ part, onPart }: PartChooserProps) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  if (part === null) {
    return (
      <section className={classes.part} aria-label="Which part of them">
        <span className="soft">Everyone who matches.</span>
        <Button size="compact-sm" onClick={() => onPart(FIRST_PART)}>
          Send to only a part…
        </Button>
      </section>
    );
  }
  const fields = (vocabulary?.fields ?? []).filter((one) => one.type !== "list");
  const random = part.kind === "share" || part.order === "random";
  return (
    <section className={classes.form} aria-label="Which part of them">
      <div className={classes.part}>
        <NativeSelect
          size="xs"
          label="Which part"
          value={part.kind}
          data={[
            { value: "places", label: "by their place" },
            { value: "share", label: "a random share" },
          ]}
          onChange={(event) => onPart(partBy(event.currentTarget.value, part))}
        />
        {part.kind === "places" ? (
          <>
            <Count label="From number" value={part.first} onCount={(first) => onPart({ ...part, first })} />
            <Count label="To number" value={part.last} onCount={(last) => onPart({ ...part, last })} />
            <NativeSelect
              size="xs"
              label="In which order"
              value={part.order}
              data={[
                { value: "oldest", label: "added first, first" },
                { value: "latest", label: "added last, first" },
                { value: "random", label: "random" },
              ]}
              onChange={(event) => onPart({ ...part, order: event.currentTarget.value as Places["order"] })}
            />
          </>
        ) : (
          <>
            <Percent
              label="From %"
              value={part.from_percent}
              onPercent={(from_percent) => onPart({ ...part, from_percent })}
            />
            <Percent
              label="To %"
              value={part.to_percent}
              onPercent={(to_percent) => onPart({ ...part, to_percent })}
            />
          </>
        )}
        <NativeSelect
          size="xs"
          label="Spread evenly over"
          value={part.spread_over ?? ""}
          data={[
            { value: "", label: "nothing" },
            ...fields.map((one) => ({ value: one.key, label: one.label })),
          ]}
          onChange={(event) => onPart({ ...part, spread_over: event.currentTarget.value || null })}
        />
        {random && (
          <Button size="xs" onClick={() => onPart({ ...part, seed: Math.floor(Math.random() * 1_000_000) })}>
            Draw others
          </Button>
        )}
      </div>
      <p className="soft">
        {random
          ? `Drawn by number ${part.seed}, so that it is the same tomorrow. `
          : "The order is by when somebody was added. "}
        Freeze the audience if you send it part by part: then no part moves while others come and go.
      </p>
      <div className={classes.part}>
        <Button size="compact-sm" onClick={() => onPart(null)}>
          Take all of them
        </Button>
      </div>
    </section>
  );
}

function Count({
  label,
  value,
  onCount,
}: {
  label: string;
  value: number;
  onCount: (count: number) => void;
}) {
  return (
    <NumberField
      className={classes.number}
      size="xs"
      label={label}
      min={1}
      whole
      value={value}
      onNumber={onCount}
    />
  );
}

interface PercentProps {
  label: string;
  value: number;
  onPercent: (percent: number) => void;
}

function Percent({ label, value, onPercent }: PercentProps) {
  return (
    <NumberField
      className={classes.number}
      size="xs"
      label={label}
      min={0}
      max={100}
      value={value}
      onNumber={onPercent}
    />
  );
}
