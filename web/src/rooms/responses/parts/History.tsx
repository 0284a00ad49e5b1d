import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { Trouble } from "../../../ui";
import classes from "./MailPanel.module.css";

type Entry = Schemas["EntryLine"];

function entryWords({ by, act, text }: Entry): string {
  const who = by ?? "It";
  switch (act) {
    case "assigned":
      return text ? `${who} assigned it to ${text}` : `${who} took it from whoever had it`;
    case "done":
      return `${who} marked it as done`;
    case "reopened":
      return `${who} opened it again`;
    case "answered":
      return `${who} answered: ${text}`;
    case "forwarded":
      return `Forwarded to ${text}`;
    case "not_forwarded":
      return `Could not be forwarded: ${text}`;
    default:
      return `${who}: ${text}`;
  }
}

/** What was done about it, and notes for colleagues. */
export function History({ mail }: { mail: Schemas["MailView"] }) {
  const words = useWords();
  const queries = useQueryClient();
  const [text, setText] = useState("");
  const note = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/responses/mails/{mail_id}/notes", {
          params: { path: { mail_id: mail.id } },
          body: { text },
        }),
      ),
    onSuccess: () => {
      setText("");
      return renew(queries, "responses");
    },
  });
  return (
    <section aria-label="Notes and what was done">
      {mail.entries.length > 0 && (
        <ol className={classes.entries}>
          {mail.entries.map((entry, index) => (
            <li key={index}>
              <time className="faint" dateTime={entry.at}>
                {words.moment(entry.at)}
              </time>
              <span dir="auto">{entryWords(entry)}</span>
            </li>
          ))}
        </ol>
      )}
      <May be="answer">
        <form
          className={classes.note}
          onSubmit={(event) => {
            event.preventDefault();
            if (!note.isPending && text.trim()) note.mutate();
          }}
        >
          <TextInput
            size="xs"
            aria-label="A note for colleagues"
            placeholder="A note for colleagues"
            maxLength={2000}
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
          <Button type="submit" size="xs" loading={note.isPending} disabled={!text.trim()}>
            Add note
          </Button>
        </form>
        {note.error && <Trouble>{wordsOf(note.error)}</Trouble>}
      </May>
    </section>
  );
}
