import { Button, NativeSelect, Popover, TextInput } from "@mantine/core";
import { useDebouncedCallback } from "@mantine/hooks";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type RefObject, useEffect, useState } from "react";
import { client, May, renew, take, wordsOf } from "../../../../api";
import type { Column, ColumnKind } from "../../../../core/table";
import { announce } from "../../../../ui";
import type { ContactsPlace } from "../../place";
import { viewsQuery } from "../../queries";
import { ColumnPicker } from "./ColumnPicker";
import { CriteriaLine } from "./CriteriaLine";
import classes from "./TableBar.module.css";

interface TableBarProps {
  /** The search box, so that a key can lead into it. */
  box: RefObject<HTMLInputElement | null>;
  place: ContactsPlace;
  columns: Column[];
  kinds: ColumnKind[];
  onPlace: (change: ContactsPlace) => void;
  onColumns: (columns: Column[]) => void;
}

/** What the table shows: words to look for, the criteria line, a saved view, the columns. */
export function TableBar({ box, place, columns, kinds, onPlace, onColumns }: TableBarProps) {
  const [text, setText] = useState(place.search ?? "");
  const later = useDebouncedCallback((next: string) => onPlace({ search: next || undefined }), 160);
  useEffect(() => setText(place.search ?? ""), [place.search]);
  return (
    <div className={classes.bar}>
      <TextInput
        ref={box}
        className={classes.search}
        aria-label="Search contacts"
        placeholder="Name, town …"
        value={text}
        rightSection={<kbd>/</kbd>}
        onChange={(event) => {
          setText(event.currentTarget.value);
          later(event.currentTarget.value);
        }}
      />
      <CriteriaLine
        value={place.criteria ?? ""}
        onChange={(criteria) => onPlace({ criteria: criteria || undefined })}
      />
      <Views place={place} columns={columns} onPlace={onPlace} onColumns={onColumns} />
      <ColumnPicker columns={columns} kinds={kinds} onColumns={onColumns} />
    </div>
  );
}

function Views({ place, columns, onPlace, onColumns }: Omit<TableBarProps, "box" | "kinds">) {
  const queries = useQueryClient();
  const { data: views } = useQuery(viewsQuery);
  const [name, setName] = useState("");
  const [opened, setOpened] = useState(false);
  const current = views?.find((view) => view.id === place.view);
  // An address that names a view shows it whole, as picking it does; columns changed afterwards stay.
  const id = current?.id;
  // biome-ignore lint/correctness/useExhaustiveDependencies: only another view brings other columns
  useEffect(() => {
    if (current) onColumns(current.columns);
  }, [id]);
  const save = useMutation({
    mutationFn: (over: boolean) => {
      const body = {
        name: over ? (current?.name ?? name) : name,
        criteria: place.criteria ?? "",
        columns: columns.map((one) => ({ ...one })),
        sort: place.sort ?? "name",
        revision: over ? (current?.revision ?? null) : null,
      };
      return over && current
        ? take(
            client.PUT("/api/contact-views/{view_id}", { params: { path: { view_id: current.id } }, body }),
          )
        : take(client.POST("/api/contact-views", { body }));
    },
    onSuccess: async (saved) => {
      await renew(queries, { queryKey: viewsQuery.queryKey });
      setOpened(false);
      setName("");
      onPlace({ view: saved.id });
      announce(`The view “${saved.name}” is saved for everybody.`);
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      take(
        client.DELETE("/api/contact-views/{view_id}", { params: { path: { view_id: current?.id ?? 0 } } }),
      ),
    onSuccess: () => {
      void renew(queries, { queryKey: viewsQuery.queryKey });
      setOpened(false);
      onPlace({ view: undefined });
    },
  });
  return (
    <>
      <NativeSelect
        className={classes.views}
        aria-label="View"
        value={current ? String(current.id) : ""}
        data={[
          { value: "", label: "All contacts" },
          ...(views ?? []).map((view) => ({ value: String(view.id), label: view.name })),
        ]}
        onChange={(event) => {
          const next = views?.find((view) => String(view.id) === event.currentTarget.value);
          onPlace({
            view: next?.id,
            criteria: next?.criteria || undefined,
            sort: next?.sort,
            search: undefined,
          });
        }}
      />
      <May be="write">
        <Popover opened={opened} onChange={setOpened} position="bottom-end" trapFocus withinPortal>
          <Popover.Target>
            <Button size="sm" onClick={() => setOpened(!opened)}>
              Save view
            </Button>
          </Popover.Target>
          <Popover.Dropdown>
            <form
              className={classes.save}
              onSubmit={(event) => {
                event.preventDefault();
                save.mutate(false);
              }}
            >
              <TextInput
                label="Name of a new view"
                description="Criteria, columns and order, for everybody here"
                value={name}
                error={save.error ? wordsOf(save.error) : undefined}
                onChange={(event) => setName(event.currentTarget.value)}
              />
              <Button type="submit" variant="filled" disabled={!name.trim()} loading={save.isPending}>
                Save as new
              </Button>
              {current && (
                <>
                  <Button onClick={() => save.mutate(true)}>Save over “{current.name}”</Button>
                  <Button variant="subtle" color="gray" onClick={() => remove.mutate()}>
                    Remove “{current.name}”
                  </Button>
                </>
              )}
            </form>
          </Popover.Dropdown>
        </Popover>
      </May>
    </>
  );
}
