import { Button, Menu, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { client, take, wordsOf } from "../../../api";
import { addressesTyped } from "../../../core/testAddresses";
import { tooLong } from "../../../core/words";
import { announce, Trouble } from "../../../ui";
import { testReadersQuery } from "../queries";
import classes from "./TestTo.module.css";

interface TestToProps {
  label: string;
  /** The addresses as they are typed. */
  value: string;
  onChange: (value: string) => void;
}

/** Whom a test goes to: addresses, colleagues by name, and lists of them that have a name. */
export function TestTo({ label, value, onChange }: TestToProps) {
  const queries = useQueryClient();
  const { data: readers } = useQuery(testReadersQuery);
  const [naming, setNaming] = useState<string>();
  const nameInput = useRef<HTMLInputElement>(null);
  const addresses = addressesTyped(value);
  const keep = useMutation({
    mutationFn: (name: string) => take(client.POST("/api/test-lists", { body: { name, addresses } })),
    onSuccess: (now, name) => {
      queries.setQueryData(testReadersQuery.queryKey, now);
      announce(`“${name.trim()}” is a list of tests now.`);
      setNaming(undefined);
    },
  });
  const remove = useMutation({
    mutationFn: (list: { id: number; name: string; addresses: string[] }) =>
      take(client.DELETE("/api/test-lists/{list_id}", { params: { path: { list_id: list.id } } })),
    onSuccess: (now, list) => {
      queries.setQueryData(testReadersQuery.queryKey, now);
      announce(`The list “${list.name}” is removed.`, {
        undo: { key: String(list.id), act: () => back.mutate(list) },
      });
    },
    onError: (wrong) => announce(wordsOf(wrong), { bad: true }),
  });
  const back = useMutation({
    mutationFn: ({ name, addresses: was }: { name: string; addresses: string[] }) =>
      take(client.POST("/api/test-lists", { body: { name, addresses: was } })),
    onSuccess: (now) => queries.setQueryData(testReadersQuery.queryKey, now),
    onError: (wrong) => announce(wordsOf(wrong), { bad: true }),
  });
  const known = readers?.lists.find((one) => one.addresses.join() === addresses.join());
  return (
    <div className={classes.to}>
      <div className={classes.row}>
        <TextInput
          size="xs"
          label={label}
          value={value}
          onChange={(event) => onChange(event.currentTarget.value)}
        />
        <Menu position="bottom-end" onExitTransitionEnd={() => nameInput.current?.focus()}>
          <Menu.Target>
            <Button size="xs">To…</Button>
          </Menu.Target>
          <Menu.Dropdown className={classes.menu ?? ""}>
            {readers?.lists.length ? <Menu.Label>Lists</Menu.Label> : null}
            {readers?.lists.map((one) => (
              <Menu.Item key={one.id} onClick={() => onChange(one.addresses.join(", "))}>
                {one.name} <span className="faint">{one.addresses.length}</span>
              </Menu.Item>
            ))}
            <Menu.Label>Colleagues</Menu.Label>
            {readers?.colleagues.map((one) => (
              <Menu.Item key={one.address} onClick={() => onChange(withAddress(value, one.address))}>
                {one.name} <span className="faint">{one.address}</span>
              </Menu.Item>
            ))}
            <Menu.Divider />
            <Menu.Item disabled={addresses.length === 0 || !!known} onClick={() => setNaming("")}>
              Keep these as a list…
            </Menu.Item>
            {known && (
              <Menu.Item color="red" onClick={() => remove.mutate(known)}>
                Remove the list “{known.name}”
              </Menu.Item>
            )}
          </Menu.Dropdown>
        </Menu>
      </div>
      {naming !== undefined && (
        <div className={classes.row}>
          <TextInput
            size="xs"
            label="Name of the list"
            value={naming}
            error={tooLong(naming, 80)}
            ref={nameInput}
            onChange={(event) => setNaming(event.currentTarget.value)}
            onKeyDown={(event) => {
              if (event.key === "Escape") setNaming(undefined);
              if (event.key !== "Enter") return;
              // It stands in the form of the test, which is not to be sent by this.
              event.preventDefault();
              if (naming.trim() && !keep.isPending) keep.mutate(naming);
            }}
          />
          <Button
            size="xs"
            loading={keep.isPending}
            disabled={naming.trim() === ""}
            onClick={() => keep.mutate(naming)}
          >
            Keep
          </Button>
        </div>
      )}
      {keep.error && naming !== undefined && <Trouble>{wordsOf(keep.error)}</Trouble>}
    </div>
  );
}

/** The addresses with one more; one that is there already is taken once. */
function withAddress(value: string, address: string): string {
  return [...new Set([...addressesTyped(value), address])].join(", ");
}
