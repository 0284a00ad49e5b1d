import { Button, CopyButton, Group, Switch } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { client, renew, type Schemas, take, useMay, wordsOf } from "../../../api";
import { Trouble } from "../../../ui";
import classes from "./RunPanel.module.css";

/** A copy of a run's message with nobody's data, which anybody may read who has its link. */
export function PublicCopy({ run }: { run: Schemas["RunResponses"] }) {
  const may = useMay();
  const queries = useQueryClient();
  const save = useMutation({
    mutationFn: (allowed: boolean) =>
      take(
        client.PUT("/api/responses/runs/{run_id}/public-copy", {
          params: { path: { run_id: run.run_id } },
          body: { allowed },
        }),
      ),
    onSuccess: () => void renew(queries, { queryKey: ["responses", "run", run.run_id] }),
  });
  const { public_address: address } = run;
  return (
    <section aria-label="Public copy">
      <h2>Public copy</h2>
      <Switch
        label="Anybody who has the link may read it, with nobody’s data in it"
        checked={address !== null}
        disabled={!may("write") || save.isPending}
        onChange={(event) => save.mutate(event.currentTarget.checked)}
      />
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
      {address && (
        <Group gap="xs" wrap="nowrap" mt={6}>
          <a className={`mono ${classes.address}`} href={address} target="_blank" rel="noreferrer">
            {address}
          </a>
          <CopyButton value={address}>
            {({ copied, copy }) => (
              <Button size="compact-sm" onClick={copy} style={{ flexShrink: 0 }}>
                {copied ? "Copied" : "Copy the link"}
              </Button>
            )}
          </CopyButton>
        </Group>
      )}
    </section>
  );
}
