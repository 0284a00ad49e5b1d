import { Button, Checkbox, MultiSelect, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, renew, type Schemas, take, wordsOf } from "../../../api";
import { TRACKED, type Tracked } from "../../../core/tracking";
import { announce, PageHead, Trouble } from "../../../ui";
import classes from "./LimitsPart.module.css";

const MOST_FIELDS = 10;

/** What is noted of readers, and what their own preference page offers. */
export function ReadersPart({ vocabulary }: { vocabulary: Schemas["Vocabulary"] }) {
  const { data: readers, error } = useQuery({
    queryKey: ["readers"],
    queryFn: () => take(client.GET("/api/readers")),
  });
  return (
    <section aria-label="Readers">
      <PageHead title="Readers" />
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {readers && (
        <ReadersForm key={JSON.stringify(readers.settings)} readers={readers} topics={vocabulary.topics} />
      )}
    </section>
  );
}

function ReadersForm({
  readers,
  topics,
}: {
  readers: Schemas["ReadersView"];
  topics: Schemas["Vocabulary"]["topics"];
}) {
  const queries = useQueryClient();
  const [draft, setDraft] = useState(readers.settings);
  const save = useMutation({
    mutationFn: () => take(client.PUT("/api/readers", { body: draft })),
    onSuccess: () => {
      void renew(queries, "readers", "campaigns");
      announce("Kept: the page offers it now; what is noted holds from the next release on.");
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  const level = (label: string, value: Tracked, onChange: (next: Tracked) => void) => (
    <NativeSelect
      label={label}
      value={value}
      data={TRACKED}
      onChange={(event) => onChange(event.currentTarget.value as Tracked)}
    />
  );
  const changed = JSON.stringify(draft) !== JSON.stringify(readers.settings);
  return (
    <form className={classes.limits} onSubmit={submit}>
      <h2>What is noted</h2>
      {level("Who opens a message is", draft.opens, (opens) => setDraft({ ...draft, opens }))}
      {level("Who follows a link is", draft.clicks, (clicks) => setDraft({ ...draft, clicks }))}
      <p className="soft">
        A campaign may say otherwise, and each person may ask for less. What is only counted has links that do
        not tell who follows them.
      </p>
      <h2>Their preference page</h2>
      <MultiSelect
        label="Fields that people may correct themselves"
        description="Besides their name and language"
        placeholder={draft.fields.length === 0 ? "none" : undefined}
        data={readers.offers.map((one) => ({ value: one.key, label: one.label }))}
        value={draft.fields}
        maxValues={MOST_FIELDS}
        w={420}
        onChange={(fields) => setDraft({ ...draft, fields })}
      />
      <Checkbox.Group
        label="Topics that everybody is offered"
        description="Others see only those who get them, so that they can leave"
        value={topics.filter((one) => !draft.inner_topics.includes(one.id)).map((one) => String(one.id))}
        onChange={(offered) =>
          setDraft({
            ...draft,
            inner_topics: topics.map((one) => one.id).filter((id) => !offered.includes(String(id))),
          })
        }
      >
        <div className={classes.ticks}>
          {topics.map((one) => (
            <Checkbox key={one.id} value={String(one.id)} label={one.name} />
          ))}
        </div>
      </Checkbox.Group>
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      <div>
        <Button type="submit" variant="filled" disabled={!changed} loading={save.isPending}>
          Save
        </Button>
      </div>
    </form>
  );
}
