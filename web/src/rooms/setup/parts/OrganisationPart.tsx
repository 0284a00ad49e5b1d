import { Button, Group, Select, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { ApiProblem, client, renew, type Schemas, take, vocabularyQuery, wordsOf } from "../../../api";
import { announce, PageHead, Trouble } from "../../../ui";
import classes from "../SetupPage.module.css";

type Organisation = Schemas["OrganisationView"];

const FORMATS = [
  "en_GB", "en_IE", "en_US", "de_DE", "de_AT", "de_CH", "fr_FR", "fr_BE", "nl_NL", "pl_PL", "es_ES", "it_IT",
  "pt_PT", "da_DK", "sv_SE", "nb_NO", "fi_FI", "cs_CZ", "el_GR", "ja_JP",
]; // biome-ignore format: one row a line would be a page

function formatWords(locale: string): string {
  const tag = locale.replaceAll("_", "-");
  const name = new Intl.DisplayNames(["en"], { type: "language" }).of(tag);
  const amount = new Intl.NumberFormat(tag, { minimumFractionDigits: 2 }).format(1234.5);
  const day = new Intl.DateTimeFormat(tag, { dateStyle: "long" }).format(new Date(2027, 2, 1));
  return `${name}: ${amount}, ${day}`;
}

/** Who the organisation is. */
export function OrganisationPart() {
  const { data, error } = useQuery({
    queryKey: ["organisation"],
    queryFn: () => take(client.GET("/api/organisation")),
  });
  return (
    <section aria-label="Organisation">
      <PageHead title="Organisation" />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {data && <OrganisationForm key={data.revision} saved={data} />}
    </section>
  );
}

function OrganisationForm({ saved }: { saved: Organisation }) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(saved);
  const set = (change: Partial<Organisation>) => setDraft((old) => ({ ...old, ...change }));
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/organisation", { body: draft })),
    onSuccess: () => {
      void renew(queries, "organisation", "campaigns", { queryKey: vocabularyQuery.queryKey });
      announce("Saved. Messages that are released from now on carry it.");
    },
  });
  const fault = save.error;
  const at = (field: string) =>
    fault instanceof ApiProblem && fault.field === field ? { error: wordsOf(fault) } : {};
  const elsewhere = fault && !(fault instanceof ApiProblem && fault.field);
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const formats = FORMATS.includes(draft.locale) ? FORMATS : [draft.locale, ...FORMATS];
  return (
    <form className={classes.form} onSubmit={submit}>
      <TextInput
        label="Name"
        value={draft.name}
        onChange={(event) => set({ name: event.currentTarget.value })}
        {...at("name")}
      />
      <Textarea
        label="Postal address"
        description="It stands at the end of every message, as the law asks in many countries"
        autosize
        minRows={2}
        value={draft.postal_address}
        onChange={(event) => set({ postal_address: event.currentTarget.value })}
        {...at("postal_address")}
      />
      <Select
        label="Numbers and dates"
        description="Of messages in no other language"
        searchable
        value={draft.locale}
        data={formats.map((value) => ({ value, label: formatWords(value) }))}
        onChange={(locale) => locale && set({ locale })}
        {...at("locale")}
      />
      <Select
        label="Time zone"
        description="Of all times on screen"
        searchable
        value={draft.time_zone}
        data={[...new Set([draft.time_zone, "UTC", ...Intl.supportedValuesOf("timeZone")])]}
        onChange={(time_zone) => time_zone && set({ time_zone })}
        {...at("time_zone")}
      />
      <TextInput
        label="List domain"
        description="Mail programs tell your mail by it (List-Id); usually the domain of your senders"
        value={draft.list_domain}
        onChange={(event) => set({ list_domain: event.currentTarget.value })}
        {...at("list_domain")}
      />
      {elsewhere && <Trouble>{wordsOf(fault)}</Trouble>}
      <Group gap="xs">
        <Button
          type="submit"
          variant="filled"
          disabled={JSON.stringify(draft) === JSON.stringify(saved)}
          loading={save.isPending}
        >
          Save the organisation
        </Button>
        <Button onClick={() => setDraft(saved)} disabled={draft === saved}>
          Cancel
        </Button>
      </Group>
    </form>
  );
}
