import { Button, Group, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../../api";
import { Diamond, Trouble } from "../../../../ui";
import classes from "./ConsentPart.module.css";

/** Whether a person may get letters on paper: until they say that they want none. */
export function PostLine({ person }: { person: Schemas["Person"] }) {
  const words = useWords();
  const queries = useQueryClient();
  const [entering, setEntering] = useState(false);
  const [wording, setWording] = useState("");
  const refused = person.post_refusal;
  const save = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/contacts/{contact_id}/post", {
          params: { path: { contact_id: person.id } },
          body: { refused: refused === null, wording },
        }),
      ),
    onSuccess: () => {
      void renew(queries, "contacts", "clearance");
      setEntering(false);
      setWording("");
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    save.mutate();
  }
  return (
    <section aria-label="Letters on paper">
      <div className={classes.topic}>
        <Diamond state={refused ? "bad" : "later"} size={13} />
        <b>Letters on paper</b>
        <span className="soft">
          {refused
            ? `wants no post, ${words.day(refused.at)}: ${refused.wording}`
            : "nothing said against post"}
          {refused?.recorded_by && ` · by ${refused.recorded_by}`}
        </span>
        <May be="contacts">
          <Button
            size="compact-xs"
            aria-label="Record for letters on paper"
            onClick={() => setEntering(!entering)}
          >
            Record…
          </Button>
        </May>
        {entering && (
          <form className={classes.entry} onSubmit={submit}>
            <TextInput
              size="xs"
              autoFocus
              label="How, and in which words"
              placeholder={
                refused ? "By telephone: send me letters again" : "By telephone: no more letters, please"
              }
              value={wording}
              maxLength={1_000}
              onChange={(event) => setWording(event.currentTarget.value)}
            />
            {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
            <Group gap={6} wrap="nowrap">
              <Button
                type="submit"
                size="compact-xs"
                variant="filled"
                loading={save.isPending}
                disabled={wording.trim().length < 5}
              >
                {refused ? "They want letters again" : "They want no letters"}
              </Button>
              <Button size="compact-xs" onClick={() => setEntering(false)}>
                Cancel
              </Button>
            </Group>
          </form>
        )}
      </div>
    </section>
  );
}
