import { Button, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, wordsOf } from "../../../api";
import { announce, PageHead, Trouble } from "../../../ui";
import { Caps } from "./Caps";
import classes from "./CarePart.module.css";

type Care = Schemas["CareView"];

const KEPT: { value: Care["kept_record"]; label: string }[] = [
  { value: "first_added", label: "the one that was added first" },
  { value: "last_changed", label: "the one that was changed last" },
  { value: "fullest", label: "the one with most filled in" },
];

/** How often one person may be written to, and which record of an address is kept. */
export function CarePart() {
  const { data: care, error } = useQuery({
    queryKey: ["care"],
    queryFn: () => take(client.GET("/api/care")),
  });
  return (
    <section aria-label="Frequency limits">
      <PageHead title="Frequency limits" />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {care && <CareForm key={JSON.stringify(care)} care={care} />}
    </section>
  );
}

function CareForm({ care }: { care: Care }) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(care);
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/care", { body: draft })),
    onSuccess: () => {
      void renew(queries, "care", "clearance", "campaigns");
      announce("Kept: it holds for every clearance from now on.");
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const changed = JSON.stringify(draft) !== JSON.stringify(care);
  return (
    <form className={classes.care} onSubmit={submit}>
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
          setDraft({ ...draft, kept_record: event.currentTarget.value as Care["kept_record"] })
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
