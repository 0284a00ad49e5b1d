import { Button, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, wordsOf } from "../../../api";
import { announce, PageHead, Trouble } from "../../../ui";
import { Caps } from "./Caps";
import classes from "./LimitsPart.module.css";

type Limits = Schemas["FrequencyLimits"];

const KEPT: { value: Limits["kept_record"]; label: string }[] = [
  { value: "first_added", label: "the one that was added first" },
  { value: "last_changed", label: "the one that was changed last" },
  { value: "fullest", label: "the one with most filled in" },
];

/** How often one person may be written to, and which record of an address is kept. */
export function LimitsPart() {
  const { data: limits, error } = useQuery({
    queryKey: ["limits"],
    queryFn: () => take(client.GET("/api/limits")),
  });
  return (
    <section aria-label="Frequency limits">
      <PageHead title="Frequency limits" />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {limits && <LimitsForm key={JSON.stringify(limits)} limits={limits} />}
    </section>
  );
}

function LimitsForm({ limits }: { limits: Limits }) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(limits);
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/limits", { body: draft })),
    onSuccess: () => {
      void renew(queries, "limits", "clearance", "campaigns");
      announce("Kept: it holds for every clearance from now on.");
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const changed = JSON.stringify(draft) !== JSON.stringify(limits);
  return (
    <form className={classes.limits} onSubmit={submit}>
      <Caps
        week={draft.week_cap}
        month={draft.month_cap}
        onWeek={(week_cap) => setDraft({ ...draft, week_cap })}
        onMonth={(month_cap) => setDraft({ ...draft, month_cap })}
        of="of all campaigns"
      />
      <NativeSelect
        label="Of several records with one address it goes to"
        value={draft.kept_record}
        data={KEPT}
        onChange={(event) =>
          setDraft({ ...draft, kept_record: event.currentTarget.value as Limits["kept_record"] })
        }
      />
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      <div>
        <Button type="submit" variant="filled" disabled={!changed} loading={save.isPending}>
          Save the limits
        </Button>
      </div>
    </form>
  );
}
