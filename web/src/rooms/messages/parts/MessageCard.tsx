import { ActionIcon, Button, Menu } from "@mantine/core";
import { IconDots } from "@tabler/icons-react";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { Link, useNavigate } from "@tanstack/react-router";
import { client, May, renew, type Schemas, take, useWords, wordsOf } from "../../../api";
import { sayPlainly } from "../../../core/writing";
import { announce, SmallLetter } from "../../../ui";
import { messagesQuery, pictureQuery } from "../queries";
import classes from "./MessageCard.module.css";

/** A message as a small letter, with what can be done with it as a whole. */
export function MessageCard({ message }: { message: Schemas["MessageLine"] }) {
  const words = useWords();
  const used = [...message.campaigns, ...message.used_in];
  const { data: picture } = useQuery(pictureQuery(message.id, message.number));
  return (
    <li className={classes.card}>
      <Link to="/messages/$id" params={{ id: String(message.id) }} className={classes.open}>
        <SmallLetter html={picture?.html ?? ""} height={196} />
        <span className={classes.name}>
          <b>{message.name}</b>
          {!message.is_shared && (
            <span className="soft">{sayPlainly(message.subject) || "no subject yet"}</span>
          )}
          <span className="faint">
            version {message.number} · {words.moment(message.updated_at)}
          </span>
          {used.length > 0 && <span className="faint">used in {used.join(", ")}</span>}
        </span>
      </Link>
      <May be="write">
        <CardMenu message={message} />
        {message.is_starter && <Begin message={message} />}
      </May>
    </li>
  );
}

function Begin({ message }: { message: Schemas["MessageLine"] }) {
  const copy = useCopy(message.id);
  return (
    <Button
      className={classes.begin ?? ""}
      variant="filled"
      size="compact-sm"
      loading={copy.isPending}
      aria-label={`Begin a message with ${message.name}`}
      onClick={() => copy.mutate()}
    >
      Begin with it
    </Button>
  );
}

/** A new message with the words of this one, opened at once. */
function useCopy(id: number) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  return useMutation({
    mutationFn: () =>
      take(client.POST("/api/messages/{message_id}/copies", { params: { path: { message_id: id } } })),
    onSuccess: (made) => {
      void renew(queries, { queryKey: messagesQuery.queryKey, exact: true });
      announce(`“${made.name}” is a new message.`);
      void navigate({ to: "/messages/$id", params: { id: String(made.id) } });
    },
    onError: (wrong) => announce(wordsOf(wrong), { bad: true }),
  });
}

function CardMenu({ message }: { message: Schemas["MessageLine"] }) {
  const queries = useQueryClient();
  const copy = useCopy(message.id);
  const path = { params: { path: { message_id: message.id } } };
  const shelve = useMutation({
    mutationFn: (body: Schemas["MessageShelf"]) =>
      take(client.PATCH("/api/messages/{message_id}", { ...path, body })),
    onSuccess: (list) => queries.setQueryData(messagesQuery.queryKey, list),
    onError: (wrong) => announce(wordsOf(wrong), { bad: true }),
  });
  function putAway() {
    shelve.mutate(
      { put_away: true },
      {
        onSuccess: () =>
          announce(`“${message.name}” is put away.`, {
            undo: {
              key: String(message.id),
              act: () => shelve.mutate({ put_away: false }),
            },
          }),
      },
    );
  }
  return (
    <Menu shadow="md" position="bottom-end">
      <Menu.Target>
        <ActionIcon
          className={classes.menu ?? ""}
          variant="default"
          size="sm"
          aria-label={`What to do with ${message.name}`}
        >
          <IconDots size={15} />
        </ActionIcon>
      </Menu.Target>
      <Menu.Dropdown>
        <Menu.Item onClick={() => copy.mutate()}>Copy</Menu.Item>
        {!message.is_shared && (
          <Menu.Item onClick={() => shelve.mutate({ is_starter: !message.is_starter })}>
            {message.is_starter ? "No starter any more" : "Let new messages begin as it"}
          </Menu.Item>
        )}
        <Menu.Item onClick={() => shelve.mutate({ is_shared: !message.is_shared })}>
          {message.is_shared ? "Share its blocks no longer" : "Share its blocks with other messages"}
        </Menu.Item>
        {message.put_away_at ? (
          <Menu.Item onClick={() => shelve.mutate({ put_away: false })}>Put back</Menu.Item>
        ) : (
          <Menu.Item onClick={putAway}>Put away</Menu.Item>
        )}
      </Menu.Dropdown>
    </Menu>
  );
}
