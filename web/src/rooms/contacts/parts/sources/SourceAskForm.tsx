import { Button, Group, NativeSelect, SegmentedControl, Textarea } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { client, type Schemas, take, wordsOf } from "../../../../api";
import { accessBody, type SourceEdit } from "../../../../core/sources";
import { count } from "../../../../core/words";
import { Trouble } from "../../../../ui";
import classes from "./SourceForms.module.css";

interface SourceAskFormProps {
  edit: SourceEdit;
  source: Schemas["SourceView"] | undefined;
  onEdit: (change: Partial<SourceEdit>) => void;
}

/** What is read: a table or a view that is chosen, or a SELECT that is written; with a look at its first rows. */
export function SourceAskForm({ edit, source, onEdit }: SourceAskFormProps) {
  const access = accessBody(edit, source);
  const tables = useMutation({
    mutationFn: () => take(client.POST("/api/sources/tables", { body: access })),
  });
  const look = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/sources/preview", {
          body: { access, table: edit.own ? "" : edit.table, select: edit.own ? edit.select : "" },
        }),
      ),
  });
  const offered = [...new Set([edit.table, ...(tables.data ?? [])])].filter(Boolean);
  const fault = tables.error ?? look.error;
  return (
    <section className={classes.part} aria-label="What is read">
      <h2>What is read</h2>
      <Group gap={10} align="end">
        <SegmentedControl
          aria-label="Where the rows come from"
          data={[
            { value: "table", label: "A table or view" },
            { value: "own", label: "A SELECT of your own" },
          ]}
          value={edit.own ? "own" : "table"}
          onChange={(next) => onEdit({ own: next === "own" })}
        />
        {!edit.own && (
          <>
            <NativeSelect
              aria-label="Table or view"
              className={classes.wide}
              value={edit.table}
              data={[{ value: "", label: tables.data ? "Choose one" : "List the tables first" }, ...offered]}
              onChange={(event) => onEdit({ table: event.currentTarget.value })}
            />
            <Button loading={tables.isPending} onClick={() => tables.mutate()}>
              List the tables
            </Button>
          </>
        )}
        <Button
          variant={look.data ? "default" : "filled"}
          disabled={edit.own ? !edit.select.trim() : !edit.table}
          loading={look.isPending}
          onClick={() => look.mutate()}
        >
          Look at its rows
        </Button>
      </Group>
      {edit.own && (
        <Textarea
          className={classes.select}
          aria-label="SELECT"
          description="One SELECT, in the words of that database. It is read in a read-only transaction and given up after a while."
          autosize
          minRows={4}
          maxRows={16}
          spellCheck={false}
          placeholder={"SELECT email, first_name, last_name\nFROM customers\nWHERE newsletter"}
          value={edit.select}
          onChange={(event) => onEdit({ select: event.currentTarget.value })}
        />
      )}
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      {look.data && <Rows found={look.data} />}
    </section>
  );
}

function Rows({ found }: { found: Schemas["SourcePreviewView"] }) {
  return (
    <>
      <p role="status">
        <b>{count(found.rows)} rows</b>
        {found.rows > found.samples.length && (
          <span className="soft">, of which these are the first {found.samples.length}</span>
        )}
      </p>
      {/* biome-ignore lint/a11y/noNoninteractiveTabindex: a region that scrolls is reached by the keyboard */}
      <section className={classes.rows} tabIndex={0} aria-label="The first rows">
        <table>
          <thead>
            <tr>
              {found.headers.map((header) => (
                <th key={header} scope="col">
                  {header}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>
            {found.samples.map((row, place) => (
              <tr key={place}>
                {row.map((cell, at) => (
                  <td key={found.headers[at]} dir="auto">
                    {cell}
                  </td>
                ))}
              </tr>
            ))}
          </tbody>
        </table>
      </section>
    </>
  );
}
