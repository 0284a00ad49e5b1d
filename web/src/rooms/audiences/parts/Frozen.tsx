import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { people } from "../../../core/words";
import { announce } from "../../../ui";
import { ABOUT_AUDIENCES } from "../queries";
import { Changes } from "./Changes";
import classes from "./Frozen.module.css";

/** Whether the audience follows its conditions or is the people of one moment, and what has changed since then. */
export function Frozen({ audience, changed }: { audience: Schemas["AudienceView"]; changed: boolean }) {
  const queries = useQueryClient();
  const words = useWords();
  const path = { params: { path: { audience_id: audience.id } } };
  const refresh = () => void renew(queries, ...ABOUT_AUDIENCES);
  const told = {
    onError: (fault: Error) => announce(wordsOf(fault), { bad: true }),
  };
  const freeze = useMutation({
    mutationFn: () => take(client.POST("/api/audiences/{audience_id}/freeze", path)),
    onSuccess: (n) => {
      refresh();
      announce(`Frozen: ${people(n)}.`);
    },
    ...told,
  });
  const thaw = useMutation({
    mutationFn: () => take(client.POST("/api/audiences/{audience_id}/thaw", path)),
    onSuccess: refresh,
    ...told,
  });
  const { data: drift } = useQuery({
    queryKey: ["audiences", "drift", audience.id, audience.frozen_at],
    queryFn: () => take(client.GET("/api/audiences/{audience_id}/drift", path)),
    enabled: audience.frozen_at !== null,
  });
  if (audience.frozen_at === null) {
    return (
      <section className={classes.frozen} aria-label="Frozen or not">
        <span className="soft">Updates by itself until a campaign is released.</span>
        <Button
          size="compact-sm"
          disabled={changed}
          title={changed ? "Save your changes first" : undefined}
          loading={freeze.isPending}
          onClick={() => freeze.mutate()}
        >
          Freeze today's people
        </Button>
      </section>
    );
  }
  return (
    <section className={classes.frozen} aria-label="Frozen or not" data-frozen>
      <span>
        <b>Frozen</b> {words.moment(audience.frozen_at)}.{" "}
        {drift && <Changes since={drift} same="The conditions would choose the same people now." />}
      </span>
      <Button size="compact-sm" loading={freeze.isPending} onClick={() => freeze.mutate()}>
        Take the people of now
      </Button>
      <Button size="compact-sm" loading={thaw.isPending} onClick={() => thaw.mutate()}>
        Follow the conditions again
      </Button>
    </section>
  );
}
