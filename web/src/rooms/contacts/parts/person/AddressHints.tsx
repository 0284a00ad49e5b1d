import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, wordsOf } from "../../../../api";
import { Trouble } from "../../../../ui";
import classes from "./PersonPanel.module.css";

/** What looks odd about a person's address, with a suggestion that is taken only by a click. */
export function AddressHints({ person }: { person: Schemas["Person"] }) {
  const queries = useQueryClient();
  const change = useMutation({
    mutationFn: (text: string) =>
      take(
        client.PUT("/api/contacts/{contact_id}/values/{key}", {
          params: { path: { contact_id: person.id, key: "address" } },
          body: { before: person.address, text },
        }),
      ),
    onSuccess: () => renew(queries, "contacts"),
  });
  return (
    <>
      {person.hints.map(({ code, suggestion }) =>
        suggestion ? (
          <p key={code} className={classes.note}>
            The domain looks mistyped.{" "}
            <Button size="compact-xs" loading={change.isPending} onClick={() => change.mutate(suggestion)}>
              Use {suggestion}
            </Button>
          </p>
        ) : (
          <p key={code} className={classes.note}>
            This is a mailbox of several people; not all of them may have opted in.
          </p>
        ),
      )}
      {change.error && <Trouble>{wordsOf(change.error)}</Trouble>}
    </>
  );
}
