import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { type Schemas, vocabularyQuery, wordsOf } from "../../api";
import { PageHead, Trouble } from "../../ui";
import classes from "./MessagePage.module.css";
import { Lens } from "./parts/Lens";
import { MessageEditor } from "./parts/MessageEditor";
import { messageQuery } from "./queries";
import { useDraft } from "./useDraft";

/** One message: its words, and what they become for real people. */
export function MessagePage({ id }: { id: string }) {
  const { data: message, error } = useQuery({ ...messageQuery(Number(id)), enabled: id !== "new" });
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (id !== "new" && !message) return null;
  return <Editor key={message?.number ?? "new"} message={message} />;
}

function Editor({ message }: { message: Schemas["MessageView"] | undefined }) {
  const navigate = useNavigate();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const draft = useDraft(message);
  const [topicId, setTopicId] = useState<number>();
  const topic = topicId ?? vocabulary?.topics[0]?.id ?? null;
  const [problems, setProblems] = useState<Schemas["PartProblemView"][]>(message?.problems ?? []);
  const able = draft.changed && draft.name.trim() !== "";
  function save() {
    draft.save.mutate(undefined, {
      onSuccess: (saved) => {
        notifications.show({ message: `“${saved.name}” is saved as version ${saved.number}.` });
        navigate({ to: "/messages/$id", params: { id: String(saved.id) } });
      },
    });
  }
  useHotkeys([["mod+S", () => able && save()]], []);
  return (
    <div className={classes.page}>
      <div className={classes.words}>
        <PageHead
          title={
            <TextInput
              aria-label="Name of the message"
              placeholder="Name of the message"
              classNames={{ input: classes.name }}
              value={draft.name}
              autoFocus={!message}
              onChange={(event) => draft.setName(event.currentTarget.value)}
            />
          }
          about={message && `version ${message.number}${draft.changed ? ", changed" : ""}`}
        >
          {draft.changed && message && <Button onClick={draft.undo}>Undo changes</Button>}
          <Button variant="filled" disabled={!able} loading={draft.save.isPending} onClick={save}>
            Save
          </Button>
        </PageHead>
        {draft.save.error && <Trouble>{wordsOf(draft.save.error)}</Trouble>}
        <MessageEditor content={draft.content} problems={problems} onContent={draft.setContent} />
      </div>
      <Lens
        content={draft.content}
        criteria="everyone"
        topicId={topic}
        senderId={null}
        relayId={null}
        onProblems={setProblems}
      >
        {vocabulary && (
          <NativeSelect
            size="xs"
            label="Looked at by people who chose"
            value={topic ?? ""}
            data={vocabulary.topics.map((one) => ({ value: String(one.id), label: one.name }))}
            onChange={(event) => setTopicId(Number(event.currentTarget.value))}
          />
        )}
      </Lens>
    </div>
  );
}
