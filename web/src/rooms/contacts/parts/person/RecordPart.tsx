import { Button, Textarea, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import {
  client,
  May,
  renew,
  type Schemas,
  take,
  useMay,
  useWords,
  vocabularyQuery,
  wordsOf,
} from "../../../../api";
import { Trouble } from "../../../../ui";
import { FieldLine } from "./FieldLine";
import classes from "./RecordPart.module.css";

/** The fields of a person, edited where they stand; tags; notes. */
export function RecordPart({ person }: { person: Schemas["Person"] }) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const words = useWords();
  return (
    <>
      <section aria-label="Fields">
        {vocabulary?.fields.map((field) => (
          <FieldLine
            key={field.key}
            personId={person.id}
            field={field}
            stored={person.record[field.key] ?? null}
          />
        ))}
      </section>
      <Tags person={person} known={vocabulary?.tags ?? []} />
      <Notes person={person} />
      <p className="faint">
        Added {words.moment(person.created_at)}
        {person.came_from && ` with ${person.came_from}`}, changed {words.moment(person.updated_at)}
      </p>
    </>
  );
}

function Tags({ person, known }: { person: Schemas["Person"]; known: string[] }) {
  const may = useMay()("contacts");
  const queries = useQueryClient();
  const [name, setName] = useState("");
  const change = useMutation({
    mutationFn: (body: { name: string; put: boolean }) =>
      take(
        client.POST("/api/contacts/{contact_id}/tags", { params: { path: { contact_id: person.id } }, body }),
      ),
    onSuccess: () => {
      setName("");
      void renew(queries, "contacts");
    },
  });
  return (
    <section aria-label="Tags">
      <form
        className={classes.tags}
        onSubmit={(event) => {
          event.preventDefault();
          if (name.trim()) change.mutate({ name, put: true });
        }}
      >
        {!may && person.tags.map((tag) => <span key={tag}>{tag}</span>)}
        {may &&
          person.tags.map((tag) => (
            <button
              key={tag}
              type="button"
              className={classes.tag}
              aria-label={`Take the tag ${tag} off`}
              onClick={() => change.mutate({ name: tag, put: false })}
            >
              {tag} <span aria-hidden="true">×</span>
            </button>
          ))}
        {may && (
          <TextInput
            size="xs"
            className={classes.newTag}
            aria-label="New tag"
            placeholder="Add a tag"
            list="known-tags"
            value={name}
            onChange={(event) => setName(event.currentTarget.value)}
          />
        )}
        <datalist id="known-tags">
          {known.map((tag) => (
            <option key={tag} value={tag} />
          ))}
        </datalist>
      </form>
      {change.error && <Trouble>{wordsOf(change.error)}</Trouble>}
    </section>
  );
}

function Notes({ person }: { person: Schemas["Person"] }) {
  const queries = useQueryClient();
  const words = useWords();
  const [text, setText] = useState("");
  const add = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/contacts/{contact_id}/notes", {
          params: { path: { contact_id: person.id } },
          body: { text },
        }),
      ),
    onSuccess: () => {
      setText("");
      void renew(queries, { queryKey: ["contacts", "person", person.id] });
    },
  });
  return (
    <section aria-label="Notes">
      {person.notes.map((note) => (
        <p key={note.id} className={classes.note}>
          {note.text}
          <span className="faint">
            {" "}
            {words.moment(note.at)}
            {note.by && `, ${note.by}`}
          </span>
        </p>
      ))}
      <May be="contacts">
        <Textarea
          size="xs"
          autosize
          minRows={1}
          aria-label="New note"
          placeholder="Write a note"
          value={text}
          onChange={(event) => setText(event.currentTarget.value)}
        />
      </May>
      {text.trim() && (
        <Button
          size="compact-xs"
          mt={6}
          variant="filled"
          loading={add.isPending}
          onClick={() => add.mutate()}
        >
          Save the note
        </Button>
      )}
      {add.error && <Trouble>{wordsOf(add.error)}</Trouble>}
    </section>
  );
}
