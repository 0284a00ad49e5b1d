import { Button, Textarea } from "@mantine/core";
import { useLocalStorage } from "@mantine/hooks";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, May, renew, type Schemas, take, wordsOf } from "../../../api";
import { tooLong } from "../../../core/words";
import { announce, Trouble } from "../../../ui";
import classes from "./MailPanel.module.css";

const LONGEST = 5_000;

/** A short answer from here, or one from one's own mail program. What is written stays until it is sent. */
export function Answer({ mail, onDone }: { mail: Schemas["MailView"]; onDone: (() => void) | undefined }) {
  const queries = useQueryClient();
  const [words, setWords, forget] = useLocalStorage({
    key: `uvarovite draft answer ${mail.id}`,
    defaultValue: "",
    getInitialValueInEffect: false,
  });
  const answer = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/responses/mails/{mail_id}/answer", {
          params: { path: { mail_id: mail.id } },
          body: { words },
        }),
      ),
    onSuccess: async (sent) => {
      if (!sent.accepted) return;
      forget();
      announce(`${sent.words} It is marked as done.`);
      await renew(queries, "responses", "desk");
      onDone?.();
    },
  });
  if (!mail.answer_to) return null;
  const long = tooLong(words, LONGEST);
  const refused = answer.data && !answer.data.accepted ? answer.data.words : undefined;
  return (
    <May be="answer">
      <form
        className={classes.answer}
        onSubmit={(event) => {
          event.preventDefault();
          if (!answer.isPending && words.trim() && !long) answer.mutate();
        }}
      >
        <Textarea
          aria-label="A short answer"
          placeholder={`A short answer to ${mail.answer_to}. What they wrote is quoted below it.`}
          autosize
          minRows={3}
          maxRows={14}
          value={words}
          error={long}
          onChange={(event) => setWords(event.currentTarget.value)}
        />
        <div className={classes.buttons}>
          <Button
            type="submit"
            variant="filled"
            loading={answer.isPending}
            disabled={!words.trim() || !!long}
          >
            Send
          </Button>
          {mail.mailto && (
            <Button component="a" href={mail.mailto}>
              In my mail program
            </Button>
          )}
          {mail.kept_as_it_came && (
            <Button component="a" href={`/api/responses/mails/${mail.id}/as-it-came.eml`} download>
              Save as it came
            </Button>
          )}
        </div>
        {(answer.error ?? refused) && (
          <Trouble>{refused ?? wordsOf(answer.error)} What you wrote is kept here.</Trouble>
        )}
      </form>
    </May>
  );
}
