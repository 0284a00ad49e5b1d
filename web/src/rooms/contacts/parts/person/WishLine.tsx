import { NativeSelect } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, useMay, wordsOf } from "../../../../api";
import type { Tracked } from "../../../../core/tracking";
import { announce, Diamond, Trouble } from "../../../../ui";
import classes from "./ConsentPart.module.css";

const WISHES: { value: Tracked | ""; label: string }[] = [
  { value: "", label: "noted as usual" },
  { value: "counted", label: "counted, but not by whom" },
  { value: "off", label: "not noted at all" },
];

/** How much may be noted of what a person opens and follows: as they say on their page, or told somebody here. */
export function WishLine({ person }: { person: Schemas["Person"] }) {
  const may = useMay();
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (wish: Tracked | null) =>
      take(
        client.PUT("/api/contacts/{contact_id}/wish", {
          params: { path: { contact_id: person.id } },
          body: { wish },
        }),
      ),
    onSuccess: () => {
      void renew(queries, "contacts");
      announce("Kept: it holds at once, for what they had before too.");
    },
  });
  return (
    <section aria-label="What they open and follow">
      <div className={classes.topic}>
        <Diamond state={person.wish ? "attention" : "later"} size={13} />
        <b>What they open and follow</b>
        <NativeSelect
          size="xs"
          aria-label="What they open and follow is"
          value={person.wish ?? ""}
          data={WISHES}
          disabled={!may("contacts") || save.isPending}
          onChange={(event) => save.mutate((event.currentTarget.value || null) as Tracked | null)}
        />
      </div>
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
    </section>
  );
}
