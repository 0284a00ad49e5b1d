import { TextInput } from "@mantine/core";
import { useDebouncedCallback } from "@mantine/hooks";
import { useInfiniteQuery } from "@tanstack/react-query";
import { useMemo, useRef, useState } from "react";
import { wordsOf } from "../../api";
import { people } from "../../core/words";
import { ButtonLink, Empty, PageHead, Trouble, useKeys } from "../../ui";
import classes from "./ContactsPage.module.css";
import { ContactTable } from "./parts/ContactTable";
import { PersonPanel } from "./parts/PersonPanel";
import { contactsQuery } from "./queries";

interface ContactsPageProps {
  search: string;
  person: number | undefined;
  onSearch: (search: string) => void;
  onPerson: (person: number | undefined) => void;
}

/** The contact table, with one person beside it. */
export function ContactsPage({ search, person, onSearch, onPerson }: ContactsPageProps) {
  const [text, setText] = useState(search);
  const box = useRef<HTMLInputElement>(null);
  const later = useDebouncedCallback(onSearch, 160);
  const query = useInfiniteQuery(contactsQuery(search));
  const rows = useMemo(() => query.data?.pages.flatMap((page) => page.rows) ?? [], [query.data]);
  const total = query.data?.pages[0]?.total ?? 0;
  const close = () => onPerson(undefined);
  useKeys({ "/": () => box.current?.focus(), Escape: close });
  return (
    <div className={classes.page} data-beside={person !== undefined || undefined}>
      <div className={classes.list}>
        <PageHead title="Contacts" about={query.data && (search ? `${people(total)} found` : people(total))}>
          <ButtonLink to="/contacts/bring-in" variant="filled">
            Bring people in
          </ButtonLink>
        </PageHead>
        <TextInput
          ref={box}
          className={classes.search}
          aria-label="Search contacts"
          placeholder="Name, address, number, town …"
          value={text}
          rightSection={<kbd>/</kbd>}
          onChange={(event) => {
            setText(event.currentTarget.value);
            later(event.currentTarget.value);
          }}
        />
        {query.isError && <Trouble>{wordsOf(query.error)}</Trouble>}
        {query.isSuccess && rows.length === 0 && (
          <Empty title={search ? "Nobody is found" : "There is nobody yet"}>
            {search
              ? "Every word must occur somewhere in the record."
              : "Bring people in from a CSV file to begin."}
          </Empty>
        )}
        {rows.length > 0 && (
          <ContactTable
            rows={rows}
            total={total}
            chosen={person}
            onChoose={onPerson}
            onMore={() => {
              if (query.hasNextPage && !query.isFetching) query.fetchNextPage();
            }}
          />
        )}
      </div>
      {person !== undefined && <PersonPanel key={person} id={person} onClose={close} />}
    </div>
  );
}
