import { Button } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, May, MayChange, renew, type Schemas, take, useMay, wordsOf } from "../../api";
import { emptySource, type SourceEdit, sourceBody, sourceEdit } from "../../core/sources";
import { announce, ButtonLink, Page, PageHead, Trouble } from "../../ui";
import { AccessForm } from "./parts/sources/AccessForm";
import { PullList } from "./parts/sources/PullList";
import { SourceAskForm } from "./parts/sources/SourceAskForm";
import { WhenForm } from "./parts/sources/WhenForm";
import { sourceKindsQuery, sourceQuery } from "./queries";
import classes from "./SourcePage.module.css";

/** A live source: how its database is reached, what is read there, when; and what its pulls found. */
export function SourcePage({ id }: { id: number | undefined }) {
  const sets = useMay()("set_up");
  const { data } = useQuery({ ...sourceKindsQuery, enabled: sets });
  // Whoever only looks chooses no file.
  const kinds = sets ? data : { files: [] };
  const { data: source, error } = useQuery({ ...sourceQuery(id ?? 0), enabled: id !== undefined });
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!kinds || (id !== undefined && !source)) return null;
  return <SourceEditor key={source?.revision ?? 0} source={source} files={kinds.files} />;
}

interface SourceEditorProps {
  source: Schemas["SourceView"] | undefined;
  files: string[];
}

function SourceEditor({ source, files }: SourceEditorProps) {
  const may = useMay();
  const queries = useQueryClient();
  const navigate = useNavigate();
  const [edit, setEdit] = useState<SourceEdit>(source ? sourceEdit(source) : emptySource(files));
  const [removing, setRemoving] = useState(false);
  const set = (change: Partial<SourceEdit>) => setEdit((old) => ({ ...old, ...change }));
  const path = { params: { path: { source_id: source?.id ?? 0 } } };
  const save = useMutation({
    mutationFn: () =>
      source
        ? take(client.PUT("/api/sources/{source_id}", { ...path, body: sourceBody(edit, source) }))
        : take(client.POST("/api/sources", { body: sourceBody(edit, undefined) })),
    onSuccess: (saved) => {
      void renew(queries, "sources");
      announce("The live source is saved.");
      if (!source) navigate({ to: "/contacts/sources/$id", params: { id: String(saved.id) } });
    },
  });
  const pull = useMutation({
    mutationFn: () => take(client.POST("/api/sources/{source_id}/pull", path)),
    onSuccess: (view) => navigate({ to: "/contacts/import", search: { import: view.id } }),
    onSettled: () => renew(queries, "sources"),
  });
  const remove = useMutation({
    mutationFn: () => take(client.DELETE("/api/sources/{source_id}", path)),
    onSuccess: () => {
      void renew(queries, "sources");
      navigate({ to: "/contacts/import", search: {} });
    },
  });
  const fault = save.error ?? pull.error ?? remove.error;
  const changed = source === undefined || JSON.stringify(edit) !== JSON.stringify(sourceEdit(source));
  return (
    <Page gap={18}>
      <PageHead
        title={source?.name ?? "New live source"}
        about="another SQL database, which is read and never changed"
      >
        <ButtonLink to="/contacts/import">Back to importing</ButtonLink>
        {source && may("contacts") && (
          <Button variant="filled" disabled={changed} loading={pull.isPending} onClick={() => pull.mutate()}>
            Fetch now and preview
          </Button>
        )}
      </PageHead>
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      {source && <PullList source={source} />}
      <MayChange be="set_up">
        <AccessForm edit={edit} source={source} files={files} onEdit={set} />
        <SourceAskForm edit={edit} source={source} onEdit={set} />
        <WhenForm edit={edit} known={source?.known ?? false} onEdit={set} />
      </MayChange>
      <May be="set_up">
        <div className={classes.end}>
          <Button
            variant={source ? "default" : "filled"}
            size="sm"
            disabled={!changed || !edit.name.trim()}
            loading={save.isPending}
            onClick={() => save.mutate()}
          >
            {source ? "Save the changes" : "Save the live source"}
          </Button>
          {source && !removing && (
            <Button size="sm" variant="subtle" color="gray" onClick={() => setRemoving(true)}>
              Remove it…
            </Button>
          )}
          {removing && (
            <>
              <span>The people imported from it stay.</span>
              <Button size="sm" color="red.9" loading={remove.isPending} onClick={() => remove.mutate()}>
                Remove the source
              </Button>
              <Button size="sm" onClick={() => setRemoving(false)}>
                Cancel
              </Button>
            </>
          )}
          {source && changed && <span className="soft">Save the changes before you fetch.</span>}
        </div>
      </May>
    </Page>
  );
}
