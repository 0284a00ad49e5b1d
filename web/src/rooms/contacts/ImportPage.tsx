import { Button, Progress, TagsInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useMay, vocabularyQuery, wordsOf } from "../../api";
import { columnPicks } from "../../core/imports";
import { count } from "../../core/words";
import { ButtonLink, Empty, Page, PageHead, Trouble } from "../../ui";
import classes from "./ImportPage.module.css";
import { ColumnCards } from "./parts/imports/ColumnCards";
import { ConsentAsk } from "./parts/imports/ConsentAsk";
import { DropPlace } from "./parts/imports/DropPlace";
import { FileForm } from "./parts/imports/FileForm";
import { ImportPreview } from "./parts/imports/ImportPreview";
import { ImportReport } from "./parts/imports/ImportReport";
import { ImportsDone } from "./parts/imports/ImportsDone";
import { SourcesThere } from "./parts/sources/SourcesThere";
import { type ImportView, useImport } from "./useImport";

interface ImportPageProps {
  /** The import that is looked at; undefined at the beginning. */
  id: number | undefined;
  onImport: (id: number | undefined) => void;
}

/** Importing people: a file or pasted cells, what it would do, how they opted in, write it, undo it. */
export function ImportPage({ id, onImport }: ImportPageProps) {
  const importing = useImport(id, onImport);
  const { view, look, write, fault, busy } = importing;
  const [typed, setLegalBasis] = useState<string>();
  // A live source's pulls go on with the legal basis that was stated for it.
  const legalBasis = typed ?? view?.legal_basis ?? "";
  const may = useMay()("contacts");
  const written = view?.state === "written" || view?.state === "undone";
  if (!may)
    return <Empty title="There is nothing here for you">Importing people takes the role Author.</Empty>;
  return (
    <Page gap={16}>
      <PageHead
        title="Import people"
        about={view ? view.filename : "from CSV, XLSX, ODS or vCard files, pasted cells, or another database"}
      >
        <ButtonLink to="/contacts">Back to contacts</ButtonLink>
      </PageHead>
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      {!view && (
        <>
          <DropPlace
            busy={busy}
            onFile={(chosen) => importing.file.mutate(chosen)}
            onCells={(text) => importing.cells.mutate(text)}
          />
          <SourcesThere />
          <ImportsDone />
        </>
      )}
      {view?.progress && <UnderWay view={view} />}
      {view && !written && view.columns.length > 0 && (
        <>
          {!view.source_id && <FileForm view={view} onForm={(form) => look.mutate({ form })} />}
          <ColumnCards
            view={view}
            busy={busy}
            onColumns={(columns) => look.mutate({ columns })}
            onKey={(key) => look.mutate({ key })}
          />
          <ImportPreview view={view} />
          <ConsentAsk
            topic={view.topic ?? null}
            legalBasis={legalBasis}
            outlook={view.outlook}
            named={view.topics_named}
            onTopic={(topic) => look.mutate({ topic: topic ?? "", columns: columnPicks(view.columns) })}
            onLegalBasis={setLegalBasis}
          />
          <Tags view={view} onTags={(tags) => look.mutate({ tags })} />
          <End importing={importing} view={view} legalBasis={legalBasis} pending={write.isPending} />
        </>
      )}
      {view && written && <ImportReport view={view} onNext={importing.begin} />}
    </Page>
  );
}

function Tags({ view, onTags }: { view: ImportView; onTags: (tags: string[]) => void }) {
  const { data: vocabulary } = useQuery(vocabularyQuery);
  return (
    <TagsInput
      label="Tags for everybody in this file"
      placeholder="such as: open day 2026"
      data={vocabulary?.tags ?? []}
      value={view.tags}
      onChange={onTags}
    />
  );
}

function UnderWay({ view }: { view: ImportView }) {
  const { phase, done, total } = view.progress ?? { phase: "", done: 0, total: 1 };
  const share = Math.round((100 * done) / Math.max(1, total));
  return (
    <div className={classes.way} role="status">
      <span>
        {phase[0]?.toUpperCase()}
        {phase.slice(1)} … {phase === "reading" ? `${share} %` : `step ${done + 1} of ${total}`}
      </span>
      <Progress value={share} aria-label={phase} />
      <span className="soft">This goes on by itself; you can leave this page.</span>
    </div>
  );
}

interface EndProps {
  importing: ReturnType<typeof useImport>;
  view: ImportView;
  legalBasis: string;
  pending: boolean;
}

function End({ importing, view, legalBasis, pending }: EndProps) {
  const stated = view.topic !== null || Object.keys(view.topics_named).length > 0;
  const open = view.columns.filter((column) => column.open.length > 0 && column.use === "field");
  const usable = view.new + view.changed + view.same;
  return (
    <div className={classes.end}>
      <Button
        variant="filled"
        size="sm"
        loading={pending}
        disabled={
          usable === 0 || open.length > 0 || importing.busy || (stated && legalBasis.trim().length < 5)
        }
        onClick={() => importing.write.mutate({ topic: view.topic ?? null, legal_basis: legalBasis })}
      >
        {`Import ${count(view.new)} new and ${count(view.changed)} changed`}
      </Button>
      <Button size="sm" onClick={() => importing.discard.mutate()}>
        Cancel
      </Button>
      <span className="soft">
        {open.length > 0
          ? `Say above how to read ${open.map((column) => column.header).join(", ")}: its values have two readings.`
          : "Nothing is written before you press the green button, and all of it can be undone afterwards."}
      </span>
    </div>
  );
}
