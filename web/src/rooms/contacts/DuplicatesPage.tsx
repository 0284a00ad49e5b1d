import { Group, NativeSelect } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, May, renew, take, vocabularyQuery, wordsOf } from "../../api";
import { count } from "../../core/words";
import { announce, ButtonLink, ConfirmButton, Empty, Page, PageHead, Trouble } from "../../ui";
import classes from "./DuplicatesPage.module.css";
import { SideBySide } from "./parts/duplicates/SideBySide";
import { duplicatesQuery } from "./queries";

/** Contacts that may be one person, merged field by field, or all of them by a rule. */
export function DuplicatesPage() {
  const queries = useQueryClient();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [by, setBy] = useState("address");
  const [keep, setKeep] = useState("oldest");
  const { data: groups, error } = useQuery(duplicatesQuery(by));
  const fields =
    vocabulary?.fields.filter((one) => !one.standard && ["text", "choice"].includes(one.type)) ?? [];
  const whole = groups?.filter((group) => group.doubt === null).length ?? 0;
  const all = useMutation({
    mutationFn: () => take(client.POST("/api/duplicates/merge-all", { body: { by, keep, seen: whole } })),
    onSuccess: (merged) => {
      void renew(queries);
      announce(`${merged === 1 ? "1 group is" : `${count(merged)} groups are`} merged.`);
    },
    // What it was refused for is on the page then.
    onError: () => {
      void renew(queries, "contacts");
    },
  });
  return (
    <Page>
      <PageHead title="Duplicates" about={groups && groupsInWords(whole, groups.length - whole)}>
        <ButtonLink to="/contacts">Back to contacts</ButtonLink>
      </PageHead>
      <Group gap={10} align="end" my={10}>
        <NativeSelect
          size="xs"
          label="They share"
          value={by}
          data={[
            { value: "address", label: "their address" },
            ...fields.map((field) => ({ value: field.key, label: `their name and ${field.label}` })),
          ]}
          onChange={(event) => {
            setBy(event.currentTarget.value);
          }}
        />
        <span className={classes.room} />
        <NativeSelect
          size="xs"
          label="In all groups keep"
          value={keep}
          data={[
            { value: "oldest", label: "who was there first" },
            { value: "latest", label: "who was changed last" },
          ]}
          onChange={(event) => setKeep(event.currentTarget.value)}
        />
        <May be="contacts">
          <ConfirmButton
            key={by}
            words="Merge all…"
            yes={`Yes, merge ${whole === 1 ? "1 group" : `${count(whole)} groups`}`}
            disabled={whole === 0}
            onYes={all.mutateAsync}
          />
        </May>
      </Group>
      <p className="soft">
        Whoever stays takes over what is blank, tags, notes, what was sent, pauses and suppression. Consent
        merges to the narrower: who left in one place has left. A merge cannot be undone.
      </p>
      {(error ?? all.error) && <Trouble>{wordsOf(error ?? all.error)}</Trouble>}
      {groups?.length === 0 && <Empty title="Nobody is there twice">At least not by what you compare.</Empty>}
      {groups?.slice(0, 40).map((group) => (
        <SideBySide key={`${by} ${group.people.map((one) => one.id).join(" ")}`} group={group} />
      ))}
      {groups && groups.length > 40 && (
        <p className="soft">and {count(groups.length - 40)} more, which come up once these are done.</p>
      )}
    </Page>
  );
}

function groupsInWords(whole: number, doubtful: number): string {
  const ones = `${count(whole)} ${whole === 1 ? "group" : "groups"} that may be one person`;
  const looked = `${count(doubtful)} to look at one by one`;
  if (doubtful === 0) return whole === 0 ? "" : ones;
  return whole === 0 ? looked : `${ones}, and ${looked}`;
}
