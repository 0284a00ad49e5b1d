import { Button, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { NumberField, Trouble } from "../../../ui";
import classes from "./PartChooser.module.css";

type Part = Schemas["Places"] | Schemas["Share"];

const FIRST: Part = { kind: "places", first: 1, last: 500, order: "oldest", seed: 1, spread_over: null };

/** Which part of those who match the audience consists of: all, the first, a range, or a random share. */
export function PartChooser({ audience }: { audience: Schemas["AudienceView"] }) {
  const queries = useQueryClient();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [part, setPart] = useState<Part>();
  const save = useMutation({
    mutationFn: (part: Part | null) =>
      take(
        client.PUT("/api/audiences/{audience_id}/part", {
          params: { path: { audience_id: audience.id } },
          body: { part: part as Record<string, unknown> | null },
        }),
      ),
    onSuccess: () => {
      setPart(undefined);
      for (const key of ["audiences", "clearance", "campaigns", "lens"]) {
        queries.invalidateQueries({ queryKey: [key] });
      }
    },
  });
  if (part === undefined) {
    return (
      <section className={classes.part} aria-label="Which part of them">
        <span className={audience.part ? undefined : "soft"}>
          {audience.part_words ? (
            <>
              Of those who match it is <b>{audience.part_words}</b>.
            </>
          ) : (
            "It is everybody who matches."
          )}
        </span>
        <Button size="compact-sm" onClick={() => setPart((audience.part as Part | null) ?? FIRST)}>
          {audience.part ? "Change the part" : "Take a part of them"}
        </Button>
        {audience.part && (
          <Button size="compact-sm" loading={save.isPending} onClick={() => save.mutate(null)}>
            Take all
          </Button>
        )}
        {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
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
          onChange={(event) =>
            setPart(
              event.currentTarget.value === "share"
                ? {
                    kind: "share",
                    from_percent: 0,
                    to_percent: 10,
                    seed: part.seed,
                    spread_over: part.spread_over,
                  }
                : { ...FIRST, seed: part.seed, spread_over: part.spread_over },
            )
          }
        />
        {part.kind === "places" ? (
          <>
            <Count label="From number" value={part.first} onCount={(first) => setPart({ ...part, first })} />
            <Count label="To number" value={part.last} onCount={(last) => setPart({ ...part, last })} />
            <NativeSelect
              size="xs"
              label="In which order"
              value={part.order}
              data={[
                { value: "oldest", label: "added first, first" },
                { value: "latest", label: "added last, first" },
                { value: "random", label: "random" },
              ]}
              onChange={(event) =>
                setPart({ ...part, order: event.currentTarget.value as Schemas["Places"]["order"] })
              }
            />
          </>
        ) : (
          <>
            <Percent
              label="From %"
              value={part.from_percent}
              onPercent={(from_percent) => setPart({ ...part, from_percent })}
            />
            <Percent
              label="To %"
              value={part.to_percent}
              onPercent={(to_percent) => setPart({ ...part, to_percent })}
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
          onChange={(event) => setPart({ ...part, spread_over: event.currentTarget.value || null })}
        />
        {random && (
          <Button size="xs" onClick={() => setPart({ ...part, seed: Math.floor(Math.random() * 1_000_000) })}>
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
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      <div className={classes.part}>
        <Button size="compact-sm" variant="filled" loading={save.isPending} onClick={() => save.mutate(part)}>
          Take this part
        </Button>
        <Button size="compact-sm" onClick={() => setPart(undefined)}>
          Leave it
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
      allowDecimal={false}
      thousandSeparator=","
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
