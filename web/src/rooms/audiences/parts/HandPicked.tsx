import { Button, Group, TextInput } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { client, May, take } from "../../../api";
import { membersQuery } from "../queries";
import { usePick } from "../usePick";
import classes from "./HandPicked.module.css";

/** The people who are in the audience, or out of it, whatever its conditions say. */
export function HandPicked({ audienceId }: { audienceId: number }) {
  const { data: members } = useQuery(membersQuery(audienceId));
  const pick = usePick(audienceId);
  const [text, setText] = useState("");
  const [asked] = useDebouncedValue(text.trim(), 150);
  const { data: found } = useQuery({
    queryKey: ["contacts", "find", asked],
    queryFn: () => take(client.GET("/api/contacts", { params: { query: { search: asked, limit: 5 } } })),
    enabled: asked.length > 1,
  });
  const kinds = [
    { kind: "added", words: "Added by hand" },
    { kind: "left_out", words: "Left out by hand" },
  ];
  return (
    <section className={classes.picked} aria-label="Picked by hand">
      <May be="write">
        <Group gap={10} align="end" wrap="nowrap">
          <TextInput
            size="xs"
            label="Pick people by hand"
            placeholder="Name or address"
            value={text}
            onChange={(event) => setText(event.currentTarget.value)}
          />
          {asked.length > 1 && found?.rows.length === 0 && <span className="soft">Nobody is found.</span>}
        </Group>
      </May>
      {asked.length > 1 &&
        found?.rows.map((row) => (
          <div key={row.id} className={classes.line}>
            <span>
              <bdi>{nameOf(row) || "no name"}</bdi>{" "}
              <span className="soft">{row.address ?? "no address"}</span>
            </span>
            <Button
              size="compact-xs"
              aria-label={`Add ${nameOf(row)}`}
              onClick={() => pick.mutate({ id: row.id, kind: "added" })}
            >
              Add
            </Button>
            <Button
              size="compact-xs"
              aria-label={`Leave out ${nameOf(row)}`}
              onClick={() => pick.mutate({ id: row.id, kind: "left_out" })}
            >
              Leave out
            </Button>
          </div>
        ))}
      {kinds.map(({ kind, words }) => {
        const those = members?.filter((one) => one.kind === kind) ?? [];
        return (
          those.length > 0 && (
            <p key={kind} className={classes.those}>
              <b>{words}:</b>{" "}
              {those.map((one) => (
                <span key={one.id} className={classes.person} data-kind={kind}>
                  <Link to="/contacts" search={{ person: one.id }}>
                    <bdi>{one.name || one.address || "no name"}</bdi>
                  </Link>
                  <button
                    type="button"
                    aria-label={`Let the conditions decide about ${one.name}`}
                    onClick={() => pick.mutate({ id: one.id, kind: null })}
                  >
                    ×
                  </button>
                </span>
              ))}
            </p>
          )
        );
      })}
    </section>
  );
}

const nameOf = (row: { first_name: string | null; last_name: string | null }) =>
  [row.first_name, row.last_name].filter(Boolean).join(" ");
