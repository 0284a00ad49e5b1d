import { Button, Group, Menu } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, May, renew, type Schemas, take, useMay, useWords, wordsOf } from "../../../api";
import { announce, PageHead, Trouble, useKeys } from "../../../ui";
import { mailQuery } from "../queries";
import { Answer } from "./Answer";
import { Beside } from "./Beside";
import { History } from "./History";
import classes from "./MailPanel.module.css";

const KIND_WORDS: Record<string, string> = {
  reply: "a person’s letter",
  leave: "a request to leave",
  report: "a delivery report",
  complaint: "a complaint",
  automatic: "a machine’s answer",
};

interface MailPanelProps {
  id: number;
  users: Schemas["UserName"][];
  /** What is done leaves the group that is looked at: go on to the next. */
  onDone: (() => void) | undefined;
}

/** A message that came in: what it says, what it was taken for, and what is done about it. */
export function MailPanel({ id, users, onDone }: MailPanelProps) {
  const { data: mail, error } = useQuery(mailQuery(id));
  if (error && !mail) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!mail) return null;
  return <Shown mail={mail} users={users} onDone={onDone} />;
}

function Shown({ mail, users, onDone }: { mail: Schemas["MailView"] } & Omit<MailPanelProps, "id">) {
  const words = useWords();
  const isPerson = mail.kind === "reply" || mail.kind === "leave";
  return (
    <article>
      <PageHead
        title={<bdi>{mail.name || mail.from_name || mail.from_address || "Nobody"}</bdi>}
        about={<bdi>{mail.from_address}</bdi>}
      >
        {isPerson && <Todo mail={mail} users={users} onDone={onDone} />}
      </PageHead>
      <div className={classes.columns}>
        <div className={classes.main}>
          <div className={classes.letter}>
            <p className="faint">
              {words.moment(mail.at)} · <bdi>{mail.subject || "no subject"}</bdi>
              {mail.times > 1 && ` · came ${mail.times} times, counted once`}
            </p>
            <Text text={mail.words || "It says nothing."} />
            {mail.quoted && (
              <details className={classes.quoted}>
                <summary>quotes our message, {mail.quoted.split("\n").length} lines</summary>
                <Text text={mail.quoted} />
              </details>
            )}
            {mail.attachments.length > 0 && (
              <p className="soft">
                With <bdi>{mail.attachments.join(", ")}</bdi>: save it as it came to open them in your mail
                program.
              </p>
            )}
          </div>
          <p className={classes.told}>
            Told as {KIND_WORDS[mail.kind] ?? "nothing of these"}: {mail.told}.{" "}
            {mail.matched && `What it is about was found ${mail.matched}. `}
            {mail.effect}
          </p>
          {mail.kind === "leave" && !mail.delivery_id && !mail.done_at && (
            <AsksToLeave mail={mail} onDone={onDone} />
          )}
          {isPerson && <Answer mail={mail} onDone={onDone} />}
          <History mail={mail} />
        </div>
        <Beside mail={mail} />
      </div>
    </article>
  );
}

/** Words as they were written: each line may run its own way. */
function Text({ text }: { text: string }) {
  return (
    <div className={classes.text}>
      {text.split(/\n{2,}/).map((part, index) => (
        <p key={index} dir="auto">
          {part}
        </p>
      ))}
    </div>
  );
}

function Todo({ mail, users, onDone }: { mail: Schemas["MailView"] } & Omit<MailPanelProps, "id">) {
  const may = useMay();
  const queries = useQueryClient();
  const path = { mail_id: mail.id };
  const set = (done: boolean) =>
    take(client.PUT("/api/responses/mails/{mail_id}/done", { params: { path }, body: { done } })).then(() =>
      renew(queries, "responses", "desk"),
    );
  const done = useMutation({
    mutationFn: set,
    onSuccess: (_, isDone) => {
      if (!isDone) return;
      announce(`Done: ${mail.name || mail.from_name || mail.from_address}.`, {
        undo: { key: `done ${mail.id}`, act: () => set(false) },
      });
      onDone?.();
    },
  });
  const assign = useMutation({
    mutationFn: (user_id: number | null) =>
      take(client.PUT("/api/responses/mails/{mail_id}/assigned", { params: { path }, body: { user_id } })),
    onSuccess: () => renew(queries, "responses"),
  });
  const { mutate, isPending } = done;
  const mayDo = may("answer") && !mail.done_at && !isPending;
  useKeys(useMemo(() => ({ d: () => mayDo && mutate(true) }), [mayDo, mutate]));
  const theirs = users.find((one) => one.id === mail.assigned_to);
  const fault = done.error ?? assign.error;
  return (
    <>
      {fault && <Trouble>{wordsOf(fault)}</Trouble>}
      <May be="answer">
        <Menu position="bottom-end">
          <Menu.Target>
            <Button loading={assign.isPending}>{theirs ? `For ${theirs.name}` : "Assign…"}</Button>
          </Menu.Target>
          <Menu.Dropdown>
            {users.map((one) => (
              <Menu.Item
                key={one.id}
                disabled={one.id === mail.assigned_to}
                onClick={() => assign.mutate(one.id)}
              >
                {one.name}
              </Menu.Item>
            ))}
            {mail.assigned_to && <Menu.Item onClick={() => assign.mutate(null)}>Nobody</Menu.Item>}
          </Menu.Dropdown>
        </Menu>
        {mail.done_at ? (
          <Button loading={isPending} onClick={() => mutate(false)}>
            Not done yet
          </Button>
        ) : (
          <Button
            variant="filled"
            loading={isPending}
            onClick={() => mutate(true)}
            rightSection={<kbd>D</kbd>}
          >
            Done
          </Button>
        )}
      </May>
    </>
  );
}

/** A request to leave from an address that nothing was sent to: whether it is meant, somebody has to say. */
function AsksToLeave({ mail, onDone }: { mail: Schemas["MailView"]; onDone: (() => void) | undefined }) {
  const queries = useQueryClient();
  const address = mail.from_address ?? "";
  const suppress = useMutation({
    mutationFn: async () => {
      const reason = `asked by mail: ${mail.words || mail.subject}`.slice(0, 300);
      await take(client.POST("/api/suppressions", { body: { text: address, reason } }));
      const path = { mail_id: mail.id };
      await take(
        client.PUT("/api/responses/mails/{mail_id}/done", { params: { path }, body: { done: true } }),
      );
    },
    onSuccess: async () => {
      announce(`${address} gets nothing from now on.`);
      await renew(queries, "responses", "suppressions");
      onDone?.();
    },
  });
  return (
    <Trouble tone="held">
      <p className={classes.asks}>
        They ask to leave, from an address that we did not write to lately. Nobody was taken out. If a contact
        of yours reads this address, suppress it.
      </p>
      {address && (
        <May be="contacts">
          <Group gap={8}>
            <Button loading={suppress.isPending} onClick={() => suppress.mutate()}>
              Suppress {address}
            </Button>
          </Group>
        </May>
      )}
      {suppress.error && <p>{wordsOf(suppress.error)}</p>}
    </Trouble>
  );
}
