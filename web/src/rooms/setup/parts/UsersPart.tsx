import { Button, Menu, Modal, NativeSelect, Table, TextInput, VisuallyHidden } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { type FormEvent, useState } from "react";
import { client, meQuery, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { announce, ConfirmButton, Once, PageHead, Trouble } from "../../../ui";
import dialog from "./FieldDialog.module.css";
import { rolesQuery, usersQuery } from "./queries";

type User = Schemas["UserLine"];
type Role = Schemas["Role"];

/** Everybody with an account: inviting, roles, leaving. */
export function UsersPart() {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const { data: users, error } = useQuery(usersQuery);
  const { data: table } = useQuery(rolesQuery);
  const [open, setOpen] = useState<"invite" | { leaving: User } | { link: string; name: string }>();
  const refresh = () => renew(queries, { queryKey: usersQuery.queryKey }, "colleagues");
  const roles = (table?.roles ?? []).map((one) => ({ value: one.role, label: one.label }));
  const here = users?.filter((one) => !one.left_at);
  const gone = users?.filter((one) => one.left_at) ?? [];
  return (
    <section aria-label="Users">
      <PageHead title="Users">
        <Button onClick={() => setOpen("invite")}>Invite somebody</Button>
      </PageHead>
      <ul className="soft">
        {table?.roles.map((one) => (
          <li key={one.role}>
            <b>{one.label}</b>: {one.words}
          </li>
        ))}
      </ul>
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {here && (
        <Table.ScrollContainer minWidth={600}>
          <Table bg="var(--sheet)" withTableBorder verticalSpacing={6}>
            <Table.Thead>
              <Table.Tr>
                <Table.Th>Name</Table.Th>
                <Table.Th>Role</Table.Th>
                <Table.Th>Last here</Table.Th>
                <Table.Th ta="right">Browsers</Table.Th>
                <Table.Th ta="right">Tokens</Table.Th>
                <Table.Th>
                  <VisuallyHidden>More</VisuallyHidden>
                </Table.Th>
              </Table.Tr>
            </Table.Thead>
            <Table.Tbody>
              {here.map((user) => (
                <UserRow
                  key={`${user.id} ${user.role}`}
                  user={user}
                  roles={roles}
                  mine={user.email === me?.email}
                  onChanged={refresh}
                  onLink={(link) => setOpen({ link, name: user.name })}
                  onLeave={() => setOpen({ leaving: user })}
                />
              ))}
            </Table.Tbody>
          </Table>
        </Table.ScrollContainer>
      )}
      {gone.length > 0 && (
        <p className="soft">
          No longer here: {gone.map((one) => `${one.name} (${one.email})`).join(", ")}. Invite them again to
          open the account.
        </p>
      )}
      {open === "invite" && (
        <InviteDialog roles={roles} onClose={() => setOpen(undefined)} onInvited={refresh} />
      )}
      {typeof open === "object" && "link" in open && (
        <Modal opened onClose={() => setOpen(undefined)} title={`A link for ${open.name}`} size="lg">
          <LinkOnce url={open.link} />
        </Modal>
      )}
      {typeof open === "object" && "leaving" in open && (
        <LeaveDialog user={open.leaving} onClose={() => setOpen(undefined)} onDone={refresh} />
      )}
    </section>
  );
}

interface RowProps {
  user: User;
  roles: { value: Role; label: string }[];
  /** Is it whoever looks? */
  mine: boolean;
  onChanged: () => Promise<void>;
  onLink: (url: string) => void;
  onLeave: () => void;
}

function UserRow({ user, roles, mine, onChanged, onLink, onLeave }: RowProps) {
  const words = useWords();
  const path = { params: { path: { user_id: user.id } } };
  const told = { onError: (fault: Error) => announce(wordsOf(fault), { bad: true }) };
  const change = useMutation({
    mutationFn: (role: Role) => take(client.PUT("/api/users/{user_id}/role", { ...path, body: { role } })),
    onSuccess: async (_, role) => {
      const label = roles.find((one) => one.value === role)?.label;
      announce(`${user.name} is ${label} now, and has to sign in again.`);
      await onChanged();
    },
    ...told,
  });
  const link = useMutation({
    mutationFn: () => take(client.POST("/api/users/{user_id}/link", path)),
    onSuccess: (made) => onLink(made.url),
    ...told,
  });
  const signOut = useMutation({
    mutationFn: () => take(client.DELETE("/api/users/{user_id}/sessions", path)),
    onSuccess: async (ended) => {
      announce(`${user.name} is signed out of ${ended} browser${ended === 1 ? "" : "s"}.`);
      await onChanged();
    },
    ...told,
  });
  return (
    <Table.Tr>
      <Table.Td>
        <b>{user.name}</b>
        {mine && " (you)"}
        <div className="soft">{user.email}</div>
      </Table.Td>
      <Table.Td>
        <NativeSelect
          size="xs"
          w={130}
          aria-label={`Role of ${user.name}`}
          value={user.role}
          data={roles}
          disabled={change.isPending}
          onChange={(event) => change.mutate(event.currentTarget.value as Role)}
        />
      </Table.Td>
      <Table.Td>
        {user.seen_at ? words.moment(user.seen_at) : user.has_password ? "never" : "invited, not come yet"}
      </Table.Td>
      <Table.Td ta="right">{user.sessions}</Table.Td>
      <Table.Td ta="right">{user.tokens}</Table.Td>
      <Table.Td ta="right">
        <Menu position="bottom-end">
          <Menu.Target>
            <Button size="compact-xs" aria-label={`More about ${user.name}`}>
              More
            </Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Item onClick={() => link.mutate()}>Link to choose a password</Menu.Item>
            <Menu.Item disabled={user.sessions === 0} onClick={() => signOut.mutate()}>
              Sign out everywhere
            </Menu.Item>
            <Menu.Item color="red.9" onClick={onLeave}>
              Close the account…
            </Menu.Item>
          </Menu.Dropdown>
        </Menu>
      </Table.Td>
    </Table.Tr>
  );
}

function LinkOnce({ url }: { url: string }) {
  return (
    <Once secret={url} label="Give them this link">
      It works once, for a week, and is shown only now. Whoever opens it chooses the password: give it to
      nobody else.
    </Once>
  );
}

interface InviteProps {
  roles: { value: Role; label: string }[];
  onClose: () => void;
  onInvited: () => Promise<void>;
}

function InviteDialog({ roles, onClose, onInvited }: InviteProps) {
  const [email, setEmail] = useState("");
  const [name, setName] = useState("");
  const [role, setRole] = useState<Role>("author");
  const invite = useMutation({
    mutationFn: () => take(client.POST("/api/users", { body: { email, name, role } })),
    onSuccess: () => onInvited(),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    invite.mutate();
  }
  if (invite.data)
    return (
      <Modal opened onClose={onClose} title={`${name || email} is invited`} size="lg">
        <LinkOnce url={invite.data.url} />
      </Modal>
    );
  return (
    <Modal opened onClose={onClose} title="Invite somebody">
      <form className={dialog.form} onSubmit={submit}>
        <TextInput
          data-autofocus
          label="E-mail address"
          description="They sign in with it"
          value={email}
          onChange={(event) => setEmail(event.currentTarget.value)}
        />
        <TextInput label="Name" value={name} onChange={(event) => setName(event.currentTarget.value)} />
        <NativeSelect
          label="Role"
          value={role}
          data={roles}
          onChange={(event) => setRole(event.currentTarget.value as Role)}
        />
        {invite.error && <Trouble>{wordsOf(invite.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="filled" disabled={!email.trim()} loading={invite.isPending}>
            Make the link
          </Button>
        </div>
      </form>
    </Modal>
  );
}

function LeaveDialog({
  user,
  onClose,
  onDone,
}: {
  user: User;
  onClose: () => void;
  onDone: () => Promise<void>;
}) {
  const leave = useMutation({
    mutationFn: () => take(client.DELETE("/api/users/{user_id}", { params: { path: { user_id: user.id } } })),
    onSuccess: async () => {
      await onDone();
      onClose();
    },
  });
  return (
    <Modal opened onClose={onClose} title={`Close the account of ${user.name}?`}>
      <div className={dialog.form}>
        <p>
          {user.name} is signed out at once and cannot sign in any more. Their tokens stop working, and what
          they changed and did not save is thrown away. What they did keeps their name.
        </p>
        {leave.error && <Trouble>{wordsOf(leave.error)}</Trouble>}
        <div className={dialog.buttons}>
          <Button data-autofocus onClick={onClose}>
            Cancel
          </Button>
          <ConfirmButton words="Close it…" yes="Close the account" onYes={() => leave.mutateAsync()} />
        </div>
      </div>
    </Modal>
  );
}
