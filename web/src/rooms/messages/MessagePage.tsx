import { NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useCallback, useState } from "react";
import {
  type Draft,
  May,
  MayChange,
  type Schemas,
  useMay,
  useWords,
  vocabularyQuery,
  wordsOf,
} from "../../api";
import { readersOf } from "../../core/languages";
import type { MessageDoc } from "../../core/message";
import { tooLong } from "../../core/words";
import { type Caret, Clashes, DraftBar, Empty, OthersDrafts, PageHead, Trouble } from "../../ui";
import classes from "./MessagePage.module.css";
import { Lens } from "./parts/Lens";
import { MessageEditor, type Wanted } from "./parts/MessageEditor";
import { messageQuery } from "./queries";
import { useMessageDraft } from "./useMessageDraft";

/** One message: its words, and what they become for real people. */
export function MessagePage({ id }: { id: string }) {
  const fresh = id === "new";
  const navigate = useNavigate();
  const { data: message, error } = useQuery({ ...messageQuery(Number(id)), enabled: !fresh });
  const onSaved = useCallback(
    (saved: Schemas["MessageView"]) => {
      if (fresh) navigate({ to: "/messages/$id", params: { id: String(saved.id) }, replace: true });
    },
    [fresh, navigate],
  );
  const draft = useMessageDraft(fresh ? null : message, onSaved);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!draft) return <Empty title="Opening the message …" />;
  return <Editor message={message} draft={draft} />;
}

interface EditorProps {
  message: Schemas["MessageView"] | undefined;
  draft: Draft<MessageDoc>;
}

function Editor({ message, draft }: EditorProps) {
  const words = useWords();
  const may = useMay();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [topicId, setTopicId] = useState<number>();
  const topic = topicId ?? vocabulary?.topics[0]?.id ?? null;
  const [problems, setProblems] = useState<Schemas["PartProblemView"][]>(message?.problems ?? []);
  const [person, setPerson] = useState(0);
  const [language, setLanguage] = useState("");
  const [wanted, setWanted] = useState<Wanted>();
  const [caret, setCaret] = useState<Caret>();
  const { doc } = draft;
  return (
    <div className={classes.page}>
      <div className={classes.words}>
        <PageHead
          title={
            <TextInput
              aria-label="Name of the message"
              placeholder="Name of the message"
              classNames={{ input: classes.name }}
              value={doc.name}
              error={tooLong(doc.name, 200)}
              readOnly={!may("write")}
              autoFocus={!message}
              onChange={(event) => draft.edit({ ...draft.current(), name: event.currentTarget.value })}
            />
          }
          about={message && `version ${message.number}`}
        >
          <May be="write">
            <DraftBar draft={draft} able={doc.name.trim() !== ""} fresh={!message} time={words.time} />
          </May>
        </PageHead>
        {draft.fault && <Trouble>{draft.fault}</Trouble>}
        <Clashes standing={draft.standing} onDecide={draft.decide} />
        <OthersDrafts others={draft.others} what="this message" moment={words.moment} />
        <MayChange be="write">
          <MessageEditor
            content={doc.content}
            problems={problems}
            contactId={person}
            message={message}
            onLanguage={setLanguage}
            onCaret={setCaret}
            wanted={wanted}
            onContent={(content) => draft.edit({ ...draft.current(), content })}
          />
        </MayChange>
      </div>
      <Lens
        content={doc.content}
        messageId={message?.id ?? null}
        criteria={readersOf("everyone", language)}
        topicId={topic}
        senderId={null}
        relayId={null}
        onProblems={setProblems}
        onPerson={setPerson}
        caret={caret}
        onPlace={(place, language) => setWanted({ place, language })}
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
