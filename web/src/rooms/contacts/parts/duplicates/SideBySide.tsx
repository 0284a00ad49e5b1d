import { Button, Group } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, May, renew, type Schemas, take, useWords, vocabularyQuery, wordsOf } from "../../../../api";
import { STATE_WORDS } from "../../../../core/consent";
import { differingKeys, takenFrom } from "../../../../core/merging";
import { fieldValue } from "../../../../core/words";
import { announce, Trouble } from "../../../../ui";
import classes from "./SideBySide.module.css";

/** Contacts that may be one person, side by side: a click on a value takes it. */
export function SideBySide({ group }: { group: Schemas["DuplicateGroup"] }) {
  const queries = useQueryClient();
  const words = useWords();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const { people } = group;
  const [kept, setKept] = useState(people[0]?.id ?? 0);
  const [choices, setChoices] = useState<Record<string, number>>({});
  const merge = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/duplicates/merge", {
          body: { kept_id: kept, gone_ids: people.map((one) => one.id).filter((id) => id !== kept), choices },
        }),
      ),
    onSuccess: () => renew(queries),
  });
  const ids = people.map((one) => one.id);
  const different = useMutation({
    mutationFn: (said: boolean) =>
      take(client.POST("/api/duplicates/different", { body: { ids, different: said } })),
    onSuccess: (_, said) => {
      void renew(queries, "contacts");
      if (!said) return;
      announce("They are not offered as one person again.", {
        undo: { key: String(ids), act: () => different.mutate(false) },
      });
    },
  });
  const keys = differingKeys(people);
  const name = `group ${people[0]?.id}`;
  return (
    <section className={classes.group} aria-label={`Merge ${group.what}`}>
      <table>
        <thead>
          <tr>
            <th>{group.what}</th>
            {people.map((one) => (
              <th key={one.id}>
                <label>
                  <input
                    type="radio"
                    name={name}
                    checked={kept === one.id}
                    onChange={() => setKept(one.id)}
                  />{" "}
                  {kept === one.id ? "kept" : "merged into the other"}
                </label>
                <div className="faint">since {words.day(one.created_at)}</div>
              </th>
            ))}
            <th className="soft">after a merge</th>
          </tr>
        </thead>
        <tbody>
          {keys.map((key) => {
            const field = vocabulary?.fields.find((one) => one.key === key);
            const from = takenFrom(people, kept, choices, key);
            return (
              <tr key={key}>
                <th scope="row">{field?.label ?? key}</th>
                {people.map((one) => (
                  <td key={one.id} data-taken={from === one.id || undefined}>
                    <button type="button" onClick={() => setChoices({ ...choices, [key]: one.id })}>
                      <bdi>
                        {fieldValue(one.record[key], field?.type ?? "text", field?.parts[0]?.key) || "blank"}
                      </bdi>
                      {from === one.id && <span className="faint"> ✓</span>}
                    </button>
                  </td>
                ))}
                <td />
              </tr>
            );
          })}
          {vocabulary?.topics
            .filter((topic) => people.some((one) => one.topics[topic.key] !== "never"))
            .map((topic) => (
              <tr key={topic.key}>
                <th scope="row">{topic.name}</th>
                {people.map((one) => (
                  <td key={one.id}>
                    {one.pauses[topic.key]
                      ? `pauses until ${words.day(one.pauses[topic.key] ?? "")}`
                      : STATE_WORDS[one.topics[topic.key] ?? "never"]}
                  </td>
                ))}
                <td className="soft">{STATE_WORDS[group.merged[topic.key] ?? "never"]}</td>
              </tr>
            ))}
        </tbody>
      </table>
      {group.doubt && (
        <p className={classes.note}>{group.doubt} This group is not merged with all the others.</p>
      )}
      {group.effects.length > 0 && (
        <p className={classes.note}>
          <b>Merged into one:</b> {group.effects.join(" ")}
        </p>
      )}
      {(merge.error ?? different.error) && <Trouble>{wordsOf(merge.error ?? different.error)}</Trouble>}
      <May be="contacts">
        <Group gap={8} wrap="nowrap">
          <Button
            size="compact-sm"
            variant={group.doubt ? "default" : "filled"}
            loading={merge.isPending}
            onClick={() => merge.mutate()}
          >
            Merge into one
          </Button>
          <Button size="compact-sm" loading={different.isPending} onClick={() => different.mutate(true)}>
            These are different people
          </Button>
        </Group>
      </May>
    </section>
  );
}
