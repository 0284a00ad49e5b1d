import { Button } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { type DragEvent, useRef, useState } from "react";
import { client, type Schemas, sendFile, take, wordsOf } from "../../api";
import { ButtonLink, PageHead, Trouble } from "../../ui";
import classes from "./BringInPage.module.css";
import { ConsentAsk } from "./parts/ConsentAsk";
import { ImportPreview } from "./parts/ImportPreview";
import { ImportReport } from "./parts/ImportReport";

type View = Schemas["ImportView"];

/** Bringing people in: drop a file, see what it would do, say on what ground they opted in, write it. */
export function BringInPage() {
  const queries = useQueryClient();
  const [view, setView] = useState<View>();
  const [topic, setTopic] = useState<string | null>(null);
  const [ground, setGround] = useState("");
  const look = useMutation({
    mutationFn: (file: File) => sendFile("/api/imports", file),
    onSuccess: setView,
  });
  const again = useMutation({
    mutationFn: (change: { columns?: (string | null)[]; encoding?: string; topic?: string | null }) =>
      take(
        client.POST("/api/imports/{import_id}/look", {
          params: { path: { import_id: view?.id ?? 0 } },
          body: { topic, ...change },
        }),
      ),
    onSuccess: setView,
  });
  const write = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/imports/{import_id}/write", {
          params: { path: { import_id: view?.id ?? 0 } },
          body: { topic, ground },
        }),
      ),
    onSuccess: (done) => {
      setView(done);
      queries.invalidateQueries();
    },
  });
  const discard = useMutation({
    mutationFn: () =>
      take(client.DELETE("/api/imports/{import_id}", { params: { path: { import_id: view?.id ?? 0 } } })),
    onSettled: () => {
      setView(undefined);
      write.reset();
      again.reset();
    },
  });
  const fault = look.error ?? again.error ?? write.error;
  const usable = view ? view.new + view.changed + view.same : 0;
  return (
    <div className={classes.page}>
      <PageHead
        title="Bring people in"
        about={view ? view.filename : "from a CSV file with column names in its first line"}
      >
        <ButtonLink to="/contacts">Back to contacts</ButtonLink>
      </PageHead>
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      {!view && <DropPlace busy={look.isPending} onFile={(file) => look.mutate(file)} />}
      {view && !view.written_at && (
        <>
          <ImportPreview
            view={view}
            busy={again.isPending}
            onColumns={(columns) => again.mutate({ columns })}
            onEncoding={(encoding) => again.mutate({ encoding })}
          />
          <ConsentAsk
            topic={topic}
            ground={ground}
            outlook={view.outlook}
            onTopic={(next) => {
              setTopic(next);
              again.mutate({ topic: next });
            }}
            onGround={setGround}
          />
          <div className={classes.end}>
            <Button
              variant="filled"
              size="sm"
              loading={write.isPending}
              disabled={usable === 0 || again.isPending || (topic !== null && ground.trim().length < 5)}
              onClick={() => write.mutate()}
            >
              {`Bring in ${view.new} new and ${view.changed} changed`}
            </Button>
            <Button size="sm" onClick={() => discard.mutate()}>
              Leave it
            </Button>
            <span className="soft">Nothing is written before you press the green button.</span>
          </div>
        </>
      )}
      {view?.written_at && <ImportReport view={view} onNext={() => setView(undefined)} />}
    </div>
  );
}

function DropPlace({ busy, onFile }: { busy: boolean; onFile: (file: File) => void }) {
  const input = useRef<HTMLInputElement>(null);
  const [over, setOver] = useState(false);
  function drop(event: DragEvent) {
    event.preventDefault();
    setOver(false);
    const file = event.dataTransfer.files[0];
    if (file) onFile(file);
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: dropping is an addition; the button does the same
    <div
      className={classes.drop}
      data-over={over || undefined}
      onDragOver={(event) => {
        event.preventDefault();
        setOver(true);
      }}
      onDragLeave={() => setOver(false)}
      onDrop={drop}
    >
      <h2>Drop a CSV file here</h2>
      <p className="soft">
        You will see what is new, changed and refused before anything is written. A row needs an e-mail
        address or a contact number.
      </p>
      <Button variant="filled" size="sm" loading={busy} onClick={() => input.current?.click()}>
        Choose a file
      </Button>
      <input
        ref={input}
        type="file"
        accept=".csv,.tsv,.txt,text/csv"
        hidden
        aria-label="CSV file"
        onChange={(event) => {
          const file = event.currentTarget.files?.[0];
          if (file) onFile(file);
          event.currentTarget.value = "";
        }}
      />
    </div>
  );
}
