import { Button, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../../api";
import { REASON_WORDS } from "../../../../core/consent";
import { Trouble } from "../../../../ui";
import classes from "./SuppressionPart.module.css";

/** Why a person gets nothing, and how that is lifted, where somebody with an account may; `offer`: how to do it. */
export function SuppressionPart({ person, offer }: { person: Schemas["Person"]; offer: boolean }) {
  const queries = useQueryClient();
  const words = useWords();
  const [asked, setAsked] = useState<number>();
  const [reason, setReason] = useState("");
  const done = () => {
    setAsked(undefined);
    setReason("");
    void renew(queries, "contacts");
  };
  const lift = useMutation({
    mutationFn: (id: number) =>
      take(
        client.POST("/api/suppressions/{suppression_id}/lift", {
          params: { path: { suppression_id: id } },
          body: { reason },
        }),
      ),
    onSuccess: done,
  });
  const suppress = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/contacts/{contact_id}/suppression", {
          params: { path: { contact_id: person.id } },
          body: { reason },
        }),
      ),
    onSuccess: done,
  });
  const fault = lift.error ?? suppress.error;
  return (
    <div className={classes.part}>
      {person.suppressions.map((entry) => (
        <Trouble key={entry.id} tone="held">
          {entry.topic
            ? `Gets nothing about ${entry.topic}: `
            : entry.domain
              ? `Nothing goes to ${entry.domain}: `
              : "Gets nothing: "}
          {REASON_WORDS[entry.reason] ?? entry.reason}
          {typeof entry.evidence.why === "string" && `, “${entry.evidence.why}”`} ({words.day(entry.at)}).{" "}
          {entry.liftable ? (
            <May be="lift">
              <Button size="compact-xs" onClick={() => setAsked(entry.id)}>
                Lift…
              </Button>
            </May>
          ) : (
            "Only they can change this, by signing up."
          )}
        </Trouble>
      ))}
      {offer && person.suppressions.length === 0 && person.address && asked === undefined && (
        <Button size="compact-xs" onClick={() => setAsked(0)}>
          Never write to this person…
        </Button>
      )}
      {asked !== undefined && (
        <form
          className={classes.ask}
          onSubmit={(event) => {
            event.preventDefault();
            if (asked) lift.mutate(asked);
            else suppress.mutate();
          }}
        >
          <TextInput
            size="xs"
            label="Reason"
            value={reason}
            onChange={(event) => setReason(event.currentTarget.value)}
          />
          <Button type="submit" size="compact-xs" variant="filled" disabled={reason.trim().length < 5}>
            {asked ? "Lift" : "Suppress"}
          </Button>
          <Button size="compact-xs" onClick={done}>
            Cancel
          </Button>
        </form>
      )}
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
    </div>
  );
}
