import { Button, Group, NativeSelect, TextInput } from "@mantine/core";
import { useInfiniteQuery, useMutation, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useRef, useState } from "react";
import { client, May, renew, type Schemas, sendFile, take, useWords, wordsOf } from "../../api";
import { REASON_WORDS } from "../../core/consent";
import { count } from "../../core/words";
import { announce, ButtonLink, Empty, Page, PageHead, Trouble } from "../../ui";
import { suppressionsQuery } from "./queries";
import classes from "./SuppressionPage.module.css";

/** Addresses and domains that get nothing: looked through, added to, taken out, brought in. */
export function SuppressionPage() {
  const queries = useQueryClient();
  const words = useWords();
  const [search, setSearch] = useState("");
  const [reason, setReason] = useState<string>();
  const query = useInfiniteQuery(suppressionsQuery(search, reason));
  const input = useRef<HTMLInputElement>(null);
  const entries = query.data?.pages.flatMap((page) => page.entries) ?? [];
  const counts = query.data?.pages[0]?.counts ?? {};
  const total = Object.values(counts).reduce((sum, n) => sum + n, 0);
  const refresh = () => renew(queries, "suppressions");
  const list = useMutation({
    mutationFn: (file: File) => sendFile<Schemas["ListReport"]>("/api/suppressions/file", file),
    onSuccess: (report) => {
      refresh();
      const refused = report.refused.length > 0 ? ` Not read: ${report.refused.slice(0, 3).join("; ")}` : "";
      announce(`${count(report.added)} added, ${count(report.already)} stood there already.${refused}`, {
        stays: 15_000,
      });
    },
  });
  return (
    <Page>
      <PageHead
        title="Suppression list"
        about={`${count(total)} in force: they get nothing, whatever else is set`}
      >
        <ButtonLink to="/contacts">Back to contacts</ButtonLink>
        <May be="export">
          <Button component="a" href="/api/suppressions.csv" download>
            Export as CSV
          </Button>
        </May>
        <May be="contacts">
          <Button loading={list.isPending} onClick={() => input.current?.click()}>
            Import a list
          </Button>
        </May>
        <input
          ref={input}
          type="file"
          hidden
          aria-label="Suppression list file"
          onChange={(event) => {
            const file = event.currentTarget.files?.[0];
            if (file) list.mutate(file);
            event.currentTarget.value = "";
          }}
        />
      </PageHead>
      {(query.error ?? list.error) && <Trouble>{wordsOf(query.error ?? list.error)}</Trouble>}
      <May be="contacts">
        <Add onAdded={refresh} />
      </May>
      <Group gap={10} align="end" my={12}>
        <TextInput
          aria-label="Search the list"
          placeholder="Address or domain"
          value={search}
          onChange={(event) => setSearch(event.currentTarget.value)}
        />
        <NativeSelect
          aria-label="Reason"
          value={reason ?? ""}
          data={[
            { value: "", label: `every reason (${count(total)})` },
            ...Object.entries(REASON_WORDS).map(([value, label]) => ({
              value,
              label: `${label} (${count(counts[value] ?? 0)})`,
            })),
          ]}
          onChange={(event) => setReason(event.currentTarget.value || undefined)}
        />
      </Group>
      {query.isSuccess && entries.length === 0 && (
        <Empty title="Nothing stands here">
          People who leave everything, complain or bounce come here by themselves.
        </Empty>
      )}
      {entries.map((entry) => (
        <Line key={entry.id} entry={entry} day={words.day(entry.at)} onLifted={refresh} />
      ))}
      {query.hasNextPage && (
        <Button loading={query.isFetchingNextPage} onClick={() => query.fetchNextPage()}>
          Show more
        </Button>
      )}
    </Page>
  );
}

function Add({ onAdded }: { onAdded: () => void }) {
  const [text, setText] = useState("");
  const [reason, setReason] = useState("");
  const add = useMutation({
    mutationFn: () => take(client.POST("/api/suppressions", { body: { text, reason } })),
    onSuccess: (added) => {
      announce(added ? `${text} gets nothing from now on.` : `${text} stood there already.`);
      setText("");
      setReason("");
      onAdded();
    },
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    add.mutate();
  }
  return (
    <form className={classes.add} onSubmit={submit}>
      <TextInput
        size="xs"
        label="Address or whole domain"
        placeholder="ada@slatepost.example, or slatepost.example"
        value={text}
        onChange={(event) => setText(event.currentTarget.value)}
      />
      <TextInput
        size="xs"
        label="Why"
        value={reason}
        onChange={(event) => setReason(event.currentTarget.value)}
      />
      <Button type="submit" disabled={!text.trim() || reason.trim().length < 5} loading={add.isPending}>
        Put on the list
      </Button>
      {add.error && <Trouble>{wordsOf(add.error)}</Trouble>}
    </form>
  );
}

function Line({
  entry,
  day,
  onLifted,
}: {
  entry: Schemas["SuppressionEntry"];
  day: string;
  onLifted: () => void;
}) {
  const [reason, setReason] = useState<string>();
  const lift = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/suppressions/{suppression_id}/lift", {
          params: { path: { suppression_id: entry.id } },
          body: { reason: reason ?? "" },
        }),
      ),
    onSuccess: onLifted,
  });
  const told = entry.evidence.why ?? entry.evidence.file;
  return (
    <div className={classes.line}>
      <b>{entry.what ? (entry.domain ? `@${entry.what}` : entry.what) : "an erased address"}</b>
      <span className="soft">
        {entry.words}
        {entry.topic && `, ${entry.topic} only`}
        {typeof told === "string" && `: ${told}`}
      </span>
      <span className="faint">
        {day}
        {entry.recorded_by && `, ${entry.recorded_by}`}
      </span>
      {entry.liftable ? (
        reason === undefined ? (
          <May be="lift">
            <Button size="compact-xs" onClick={() => setReason("")}>
              Lift…
            </Button>
          </May>
        ) : (
          <form
            className={classes.lift}
            onSubmit={(event) => {
              event.preventDefault();
              lift.mutate();
            }}
          >
            <TextInput
              size="xs"
              aria-label="Why is it lifted"
              placeholder="Why?"
              value={reason}
              onChange={(event) => setReason(event.currentTarget.value)}
            />
            <Button type="submit" size="compact-xs" variant="filled" disabled={reason.trim().length < 5}>
              Lift
            </Button>
          </form>
        )
      ) : (
        <span className="faint">only they can</span>
      )}
      {lift.error && <Trouble>{wordsOf(lift.error)}</Trouble>}
    </div>
  );
}
