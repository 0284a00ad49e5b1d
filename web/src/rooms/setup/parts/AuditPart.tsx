import { Button, Group, NativeSelect, Table, TextInput } from "@mantine/core";
import { useDebouncedCallback } from "@mantine/hooks";
import { keepPreviousData, useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { client, type Schemas, take, useMay, useWords, wordsOf } from "../../../api";
import { Empty, PageHead, Trouble } from "../../../ui";
import { usersQuery } from "./queries";

type Area = Schemas["AuditArea"];

/** What is looked for: words, a part of the work, somebody, days of the organisation. */
export interface AuditPlace {
  search?: string | undefined;
  area?: string | undefined;
  user?: number | undefined;
  since?: string | undefined;
  until?: string | undefined;
}

interface Props {
  place: AuditPlace;
  onPlace: (place: AuditPlace) => void;
}

/** What was done, by whom, and when. */
export function AuditPart({ place, onPlace }: Props) {
  const words = useWords();
  const may = useMay();
  const [typed, setTyped] = useState(place.search ?? "");
  const look = useDebouncedCallback((search: string) => onPlace({ search: search || undefined }), 300);
  const { data: areas } = useQuery({
    queryKey: ["audit-areas"],
    queryFn: () => take(client.GET("/api/audit/areas")),
    staleTime: Number.POSITIVE_INFINITY,
  });
  const { data: users } = useQuery({ ...usersQuery, enabled: may("accounts") });
  const { data, error, fetchNextPage, hasNextPage, isFetchingNextPage } = useInfiniteQuery({
    queryKey: ["audit", place],
    queryFn: ({ pageParam }) =>
      take(
        client.GET("/api/audit", {
          params: {
            query: {
              ...(place.search && { search: place.search }),
              ...(place.area && { area: place.area as Area }),
              ...(place.user && { user_id: place.user }),
              ...(place.since && { since: place.since }),
              ...(place.until && { until: place.until }),
              ...(pageParam && { before: pageParam }),
            },
          },
        }),
      ),
    initialPageParam: undefined as number | undefined,
    getNextPageParam: (last) => (last.more ? last.lines.at(-1)?.id : undefined),
    placeholderData: keepPreviousData,
  });
  const lines = data?.pages.flatMap((page) => page.lines);
  const asked = Object.values(place).some((one) => one !== undefined);
  return (
    <section aria-label="Audit log">
      <PageHead title="Audit log" />
      <Group gap="xs" mb="xs" align="end">
        <TextInput
          size="xs"
          w={210}
          label="Words"
          placeholder="a name, a file, released…"
          value={typed}
          onChange={(event) => {
            setTyped(event.currentTarget.value);
            look(event.currentTarget.value);
          }}
        />
        <NativeSelect
          size="xs"
          label="Part of the work"
          value={place.area ?? ""}
          data={[
            { value: "", label: "all" },
            ...(areas ?? []).map((one) => ({ value: one.area as string, label: one.label })),
          ]}
          onChange={(event) => onPlace({ area: event.currentTarget.value || undefined })}
        />
        {users && (
          <NativeSelect
            size="xs"
            label="Who"
            value={String(place.user ?? "")}
            data={[
              { value: "", label: "everybody" },
              ...users.map((one) => ({ value: String(one.id), label: one.name })),
            ]}
            onChange={(event) => onPlace({ user: Number(event.currentTarget.value) || undefined })}
          />
        )}
        <TextInput
          size="xs"
          type="date"
          label="From"
          value={place.since ?? ""}
          onChange={(event) => onPlace({ since: event.currentTarget.value || undefined })}
        />
        <TextInput
          size="xs"
          type="date"
          label="To"
          value={place.until ?? ""}
          onChange={(event) => onPlace({ until: event.currentTarget.value || undefined })}
        />
        {asked && (
          <Button
            variant="subtle"
            onClick={() => {
              setTyped("");
              onPlace({
                search: undefined,
                area: undefined,
                user: undefined,
                since: undefined,
                until: undefined,
              });
            }}
          >
            Show all
          </Button>
        )}
      </Group>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {lines?.length === 0 && (
        <Empty title="Nothing of that kind was done">Look for other words, or for more days.</Empty>
      )}
      {lines && lines.length > 0 && (
        <Table.ScrollContainer minWidth={600}>
          <Table bg="var(--sheet)" withTableBorder verticalSpacing={5}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th w={130}>When</Table.Th>
                <Table.Th>Who did what</Table.Th>
                <Table.Th w={200}>Part of the work</Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {lines.map((line) => (
                <Table.Tr key={line.id}>
                  <Table.Td title={line.at}>{words.moment(line.at)}</Table.Td>
                  <Table.Td>
                    <b>{line.name}</b> {line.words}
                  </Table.Td>
                  <Table.Td className="soft">{areas?.find((one) => one.area === line.area)?.label}</Table.Td>
                </Table.Tr>
              ))}
            </Table.Tbody>
          </Table>
        </Table.ScrollContainer>
      )}
      {hasNextPage && (
        <Button mt="xs" loading={isFetchingNextPage} onClick={() => fetchNextPage()}>
          Earlier entries
        </Button>
      )}
    </section>
  );
}
