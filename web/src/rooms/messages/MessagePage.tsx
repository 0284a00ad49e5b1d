import { NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { memo, useCallback, useMemo, useRef, useState } from "react";
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
import { Clashes, DraftBar, Empty, OthersDrafts, PageHead, Trouble } from "../../ui";
import classes from "./MessagePage.module.css";
import { Lens } from "./parts/Lens";
import { MessageEditor } from "./parts/MessageEditor";
import { messageQuery } from "./queries";
import { useBesideLens } from "./useBesideLens";
import { useMessageDraft } from "./useMessageDraft";

const NO_PROBLEMS: Schemas["PartProblemView"][] = [];

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

interface NameFieldProps {
  name: string;
  may: boolean;
  fresh: boolean;
  onName: (name: string) => void;
}

const NameField = memo(function NameField({ name, may, fresh, onName }: NameFieldProps) {
  return (
    <TextInput
      aria-label="Name of the message"
      placeholder="Name of the message"
      classNames={{ input: classes.name }}
      value={name}
      error={tooLong(name, 200)}
      readOnly={!may}
      autoFocus={fresh}
      onChange={(event) => onName(event.currentTarget.value)}
    />
  );
});

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
  const beside = useBesideLens(draft, message?.problems ?? NO_PROBLEMS);
  const { doc } = draft;
  const now = useRef(draft);
  now.current = draft;
  const onName = useCallback((name: string) => now.current.edit({ ...now.current.current(), name }), []);
  const topics = vocabulary?.topics;
  const chooser = useMemo(
    () =>
      topics && (
        <NativeSelect
          size="xs"
          label="Looked at by people who chose"
          value={topic ?? ""}
          data={topics.map((one) => ({ value: String(one.id), label: one.name }))}
          onChange={(event) => setTopicId(Number(event.currentTarget.value))}
        />
      ),
    [topics, topic],
  );
  return (
    <div className={classes.page}>
      <div className={classes.words}>
        <PageHead
          title={<NameField name={doc.name} may={may("write")} fresh={!message} onName={onName} />}
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
          <MessageEditor {...beside.words} message={message} />
        </MayChange>
      </div>
      <Lens
        {...beside.lens}
        messageId={message?.id ?? null}
        criteria={readersOf("everyone", beside.language)}
        topicId={topic}
        senderId={null}
        poolId={null}
      >
        {chooser}
      </Lens>
    </div>
  );
}
