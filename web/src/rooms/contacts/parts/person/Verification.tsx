import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, useWords, wordsOf } from "../../../../api";
import { Trouble } from "../../../../ui";
import classes from "./PersonPanel.module.css";

/** Whether the domain of a person's address takes mail, as its name servers say. */
export function Verification({ person }: { person: Schemas["Person"] }) {
  const queries = useQueryClient();
  const words = useWords();
  const found = person.verification;
  const ask = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/contacts/{contact_id}/verification", {
          params: { path: { contact_id: person.id } },
        }),
      ),
    onSuccess: () => renew(queries, "contacts"),
  });
  if (!found) return null;
  const domain = person.address?.split("@").pop();
  const bad = found.verdict === "cannot take mail";
  return (
    <>
      <p className={bad ? classes.note : `${classes.quiet} soft`}>
        <bdi>{domain}</bdi> {found.verdict === "not checked" ? "is not checked yet" : found.verdict}:{" "}
        {found.reason}
        {found.checked_at && ` (${words.day(found.checked_at)})`}.{" "}
        <Button size="compact-xs" variant="subtle" loading={ask.isPending} onClick={() => ask.mutate()}>
          Look it up{found.checked_at && " again"}
        </Button>
      </p>
      {ask.error && <Trouble>{wordsOf(ask.error)}</Trouble>}
    </>
  );
}
