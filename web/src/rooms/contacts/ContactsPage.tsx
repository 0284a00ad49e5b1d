import { Button, Menu } from "@mantine/core";
import { useDisclosure } from "@mantine/hooks";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useCallback, useEffect, useMemo, useRef, useState } from "react";
import { May, wordsOf } from "../../api";
import { nextSort, resizeColumn } from "../../core/table";
import { NO_TICKS, type Ticks, tickAll, tickedCount } from "../../core/ticks";
import { count, people } from "../../core/words";
import { ButtonLink, Empty, PageHead, Trouble, useKeys } from "../../ui";
import classes from "./ContactsPage.module.css";
import { AddPerson } from "./parts/person/AddPerson";
import { PersonPanel } from "./parts/person/PersonPanel";
import { ContactTable } from "./parts/table/ContactTable";
import { LatelyDone } from "./parts/table/LatelyDone";
import { SelectionBar } from "./parts/table/SelectionBar";
import { TableBar } from "./parts/table/TableBar";
import type { ContactsPlace } from "./place";
import { contactsQuery, countQuery, criteriaQuery } from "./queries";
import { useColumns } from "./useColumns";

interface ContactsPageProps {
  place: ContactsPlace;
  onPlace: (change: ContactsPlace) => void;
}

/** The contact table, with one person beside it. */
export function ContactsPage({ place, onPlace }: ContactsPageProps) {
  const { search = "", criteria = "", sort = "name", person } = place;
  const wanted = useMemo(() => ({ search, criteria }), [search, criteria]);
  const query = useInfiniteQuery(contactsQuery(wanted, sort));
  const counted = useQuery(countQuery(wanted));
  const everybody = useQuery(countQuery({ search: "", criteria: "" }));
  const { columns, kinds, setColumns } = useColumns();
  const [ticks, setTicks] = useState<Ticks>(NO_TICKS);
  const [adding, add] = useDisclosure(false);
  const box = useRef<HTMLInputElement>(null);
  const rows = useMemo(() => query.data?.pages.flatMap((page) => page.rows) ?? [], [query.data]);
  const matching = counted.data ?? rows.length;
  const ticked = tickedCount(ticks, matching);
  const close = useCallback(() => onPlace({ person: undefined }), [onPlace]);
  // What is ticked was ticked among these people; among others it would mean something else.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the ticks go when what is looked for changes
  useEffect(() => setTicks(NO_TICKS), [wanted]);
  useKeys({
    "/": () => box.current?.focus(),
    Escape: () => (ticked > 0 ? setTicks(NO_TICKS) : close()),
  });
  const narrowed = search !== "" || criteria !== "";
  // About how many, until it is known exactly.
  const read = useQuery(criteriaQuery(criteria));
  const guess = search === "" ? read.data?.matched : undefined;
  const about =
    counted.data === undefined
      ? typeof guess === "number"
        ? `about ${people(guess)}`
        : ""
      : narrowed && everybody.data !== undefined
        ? `${count(matching)} of ${people(everybody.data)}`
        : people(matching);
  const fault = query.error ?? counted.error;
  return (
    <div className={classes.page} data-beside={person !== undefined || undefined}>
      <div className={classes.list}>
        <PageHead title="Contacts" about={about}>
          <LatelyDone />
          <Menu position="bottom-end">
            <Menu.Target>
              <Button>Clean up</Button>
            </Menu.Target>
            <Menu.Dropdown>
              <Menu.Item component={Link} to="/contacts/duplicates">
                Duplicates
              </Menu.Item>
              <Menu.Item component={Link} to="/contacts/suppression">
                Suppression list
              </Menu.Item>
            </Menu.Dropdown>
          </Menu>
          <May be="contacts">
            <Button onClick={add.open}>Add a person</Button>
            <ButtonLink to="/contacts/import" variant="filled">
              Import people
            </ButtonLink>
          </May>
        </PageHead>
        <TableBar
          box={box}
          place={place}
          columns={columns}
          kinds={kinds}
          onPlace={onPlace}
          onColumns={setColumns}
        />
        {ticked > 0 && (
          <SelectionBar
            ticks={ticks}
            wanted={wanted}
            matching={matching}
            columns={columns}
            kinds={kinds}
            onTickAll={() => setTicks(tickAll())}
            onDone={() => setTicks(NO_TICKS)}
          />
        )}
        {fault && <Trouble>{wordsOf(fault)}</Trouble>}
        {query.data?.pages.at(-1)?.preparing && (
          <Trouble tone="held">
            Nobody sorted by this column lately: it is slow now, and being made quick. Give it some minutes.
          </Trouble>
        )}
        {query.isSuccess && !fault && rows.length === 0 && (
          <Empty title={narrowed ? "Nobody is found" : "There is nobody yet"}>
            {narrowed
              ? "Every word must occur somewhere in the record, and every condition must hold."
              : "Import people from a file, or add somebody by hand."}
          </Empty>
        )}
        {rows.length > 0 && (
          <ContactTable
            rows={rows}
            total={matching}
            columns={columns}
            kinds={kinds}
            search={search}
            sort={sort}
            ticks={ticks}
            chosen={person}
            onChoose={(id) => onPlace({ person: id })}
            onTicks={setTicks}
            onSort={(key) => onPlace({ sort: nextSort(sort, key) })}
            onResize={(key, width) => setColumns(resizeColumn(columns, key, width))}
            onMore={() => {
              if (query.hasNextPage && !query.isFetching) query.fetchNextPage();
            }}
          />
        )}
      </div>
      {person !== undefined && <PersonPanel key={person} id={person} onClose={close} />}
      <AddPerson opened={adding} onClose={add.close} onAdded={(id) => onPlace({ person: id })} />
    </div>
  );
}
