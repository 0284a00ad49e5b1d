import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, take } from "../../../api";
import { count } from "../../../core/words";
import { audiencesQuery } from "../queries";
import classes from "./CompareWith.module.css";

/** How far two audiences are the same people, before two campaigns reach them both. */
export function CompareWith({ audienceId }: { audienceId: number }) {
  const { data: audiences } = useQuery(audiencesQuery);
  const [other, setOther] = useState<number>();
  const { data } = useQuery({
    queryKey: ["audiences", "overlap", audienceId, other],
    queryFn: () =>
      take(
        client.GET("/api/audiences/{audience_id}/overlap/{other_id}", {
          params: { path: { audience_id: audienceId, other_id: other ?? 0 } },
        }),
      ),
    enabled: other !== undefined,
  });
  const others = audiences?.filter((one) => one.id !== audienceId) ?? [];
  if (others.length === 0) return null;
  const name = others.find((one) => one.id === other)?.name;
  return (
    <section className={classes.compare} aria-label="Compared with another audience">
      <NativeSelect
        size="xs"
        w={260}
        label="Compare with"
        value={String(other ?? "")}
        data={[
          { value: "", label: "no other audience" },
          ...others.map((one) => ({ value: String(one.id), label: one.name })),
        ]}
        onChange={(event) => setOther(Number(event.currentTarget.value) || undefined)}
      />
      {data && name && (
        <p role="status">
          <b>{count(data.both)}</b> are in both, <b>{count(data.here)}</b> only here,{" "}
          <b>{count(data.there)}</b> only in {name}.{" "}
          <span className="soft">As saved, with those picked by hand.</span>
        </p>
      )}
    </section>
  );
}
