import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import type { Editor } from "@tiptap/core";
import { type KeyboardEvent, memo, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Schemas, useMay, vocabularyQuery } from "../../../api";
import type { Readers } from "../../../core/branches";
import type { Content } from "../../../core/content";
import { withWords, wordsIn } from "../../../core/languages";
import { EMPTY, isBlank } from "../../../core/message";
import { labelsOf } from "../../../core/writing";
import type { Caret } from "../../../ui";
import { Attachments } from "../writing/Attachments";
import { type Writing, WritingProvider } from "../writing/context";
import { Faults } from "../writing/Faults";
import { FindReplace } from "../writing/FindReplace";
import { CaretTeller, Going, goTo, type Wanted } from "../writing/Going";
import { Languages, MainWords } from "../writing/Languages";
import { MailboxLine } from "../writing/MailboxLine";
import { MessageSettings } from "../writing/MessageSettings";
import { SheetEditor } from "../writing/SheetEditor";
import { Tools } from "../writing/Tools";
import { useUndo } from "../writing/useUndo";
import { Comments, type PointedBlock } from "./Comments";
import classes from "./MessageEditor.module.css";
import { Versions } from "./Versions";

interface MessageEditorProps {
  content: Content;
  problems: Schemas["PartProblemView"][];
  /** Who is looked at: examples are theirs. */
  contactId: number;
  /** How many of those who get it have nothing in a field, by its key; all contacts are counted for a field that is not there. */
  blanks?: Record<string, number> | undefined;
  /** How many of them read each branch of blocks for some people only. */
  readers?: Readers | undefined;
  onContent: (content: Content) => void;
  /** The language whose words are on screen: its code, "" for the main ones. */
  onLanguage?: (language: string) => void;
  /** A place in the words that somebody wants to see, and the language that it is in. */
  wanted?: Wanted | undefined;
  /** Where the caret stands in the blocks; undefined outside of words. */
  onCaret?: ((caret: Caret | undefined) => void) | undefined;
  /** The message whose words they are; undefined while it is new. */
  message: Schemas["MessageView"] | undefined;
}

/** So long after a keystroke what stands around the words is drawn anew, in milliseconds. */
const CALM = 250;

/** The words of a message: subject, preheader, blocks, and for whom they can be. */
export const MessageEditor = memo(function MessageEditor(props: MessageEditorProps) {
  const { blanks } = props;
  const { data } = useQuery(vocabularyQuery);
  const vocabulary = useMemo(() => data && withBlanks(data, blanks), [data, blanks]);
  return vocabulary ? <Words {...props} vocabulary={vocabulary} /> : null;
});

function withBlanks(vocabulary: Schemas["Vocabulary"], blanks: Record<string, number> | undefined) {
  const fields = vocabulary.fields.map((one) => {
    const blank = blanks?.[one.key];
    return blank === undefined ? one : { ...one, blank, estimated: false };
  });
  return { ...vocabulary, fields };
}

function Words({
  content: whole,
  problems: found,
  contactId,
  onContent,
  onLanguage,
  onCaret,
  wanted,
  message,
  blanks,
  readers,
  vocabulary,
}: MessageEditorProps & { vocabulary: Schemas["Vocabulary"] }) {
  const may = useMay()("write");
  const shared = message?.is_shared === true;
  const ofReaders = blanks !== undefined && Object.keys(blanks).length > 0;
  const [chosen, setChosen] = useState<number>();
  const wholeNow = useRef(whole);
  wholeNow.current = whole;
  const at = chosen !== undefined && whole.others[chosen] ? chosen : undefined;
  // The words in the language that is written in, as a message of their own.
  const content = useMemo(() => wordsIn(whole, at), [whole, at]);
  const problems = useMemo(() => {
    // Where nothing is written yet, it is said what to do and not what is wrong.
    if (isBlank(whole)) return [];
    const prefix = at === undefined ? "" : `others.${at}.`;
    return found.flatMap((one) =>
      at === undefined
        ? one.part.startsWith("others.")
          ? []
          : [one]
        : one.part.startsWith(prefix)
          ? [{ ...one, part: one.part.slice(prefix.length) }]
          : [],
    );
  }, [whole, at, found]);
  const elsewhere = found.filter((one) => one.part.startsWith("others.") && !isBlank(whole)).length;
  const [asText, setAsText] = useState(false);
  const [finding, setFinding] = useState(false);
  const [versions, setVersions] = useState(false);
  const [active, setActive] = useState<Editor>();
  const [pointed, setPointed] = useState<PointedBlock>();
  const [asked, setAsked] = useState<Wanted>();
  const inWords = useCallback((place: Wanted | undefined) => {
    if (!place) return;
    const index = wholeNow.current.others.findIndex((one) => one.language === place.language);
    setChosen(index < 0 ? undefined : index);
  }, []);
  useEffect(() => inWords(asked), [inWords, asked]);
  useEffect(() => inWords(wanted), [inWords, wanted]);
  const { edit, undo, redo, canUndo, canRedo } = useUndo(message?.id ?? 0, whole, onContent);
  const put = useCallback(
    (change: Partial<Content>) => edit((now) => withWords(now, at, { ...wordsIn(now, at), ...change })),
    [edit, at],
  );
  // What stands around the words is drawn anew when nobody types: for it a moment is soon enough.
  const [calm] = useDebouncedValue(whole, CALM);
  const language = at === undefined ? "" : (whole.others[at]?.language ?? "");
  useEffect(() => onLanguage?.(language), [language, onLanguage]);
  const labelOf = useMemo(() => labelsOf(vocabulary.fields), [vocabulary.fields]);
  const writing = useMemo<Writing>(
    () => ({
      vocabulary,
      labelOf,
      asText,
      may,
      contactId,
      language: content.language,
      shared,
      ofReaders,
      readers,
      onActive: setActive,
    }),
    [vocabulary, labelOf, asText, may, contactId, content.language, shared, ofReaders, readers],
  );
  function press(event: KeyboardEvent) {
    if (!(event.ctrlKey || event.metaKey) || event.altKey) return;
    const key = event.key.toLowerCase();
    const isUndo = key === "z" && !event.shiftKey;
    if (!isUndo && key !== "y" && key !== "z") return;
    if (!(event.target instanceof Element) || !event.target.closest(".ProseMirror")) return;
    event.preventDefault();
    event.stopPropagation();
    if (isUndo) undo();
    else redo();
  }
  const inBlocks = problems.filter((one) => one.part.startsWith("blocks."));
  const onBlocks = useCallback((blocks: Content["blocks"]) => put({ blocks }), [put]);
  const onComment = useCallback((id: string) => setPointed({ id, language }), [language]);
  const onFind = useCallback(() => setFinding(true), []);
  const onVersions = useCallback(() => setVersions(true), []);
  const onVersionsClosed = useCallback(() => setVersions(false), []);
  const onAttachments = useCallback(
    (attachments: Content["attachments"]) => edit((now) => ({ ...now, attachments })),
    [edit],
  );
  const onGo = useCallback(
    (part: string, inLanguage: string) =>
      setAsked({ place: { part, start: 0, end: 0 }, language: inLanguage }),
    [],
  );
  const onRestore = useCallback(
    (next: Content) => {
      setChosen(undefined);
      edit(() => next);
    },
    [edit],
  );
  const written = [whole.language, ...whole.others.map((one) => one.language)].join();
  const languages = useMemo(() => written.split(","), [written]);
  const ofAttachments = useMemo(
    () => problems.filter((one) => one.part.startsWith("attachments.")),
    [problems],
  );
  return (
    <WritingProvider value={writing}>
      <div className={classes.editor} onKeyDownCapture={press}>
        <Languages
          content={whole.others === calm.others && whole.language === calm.language ? calm : whole}
          vocabulary={vocabulary}
          at={at}
          may={may}
          onAt={setChosen}
          onEdit={edit}
        />
        <SheetEditor
          key={at}
          blocks={content.blocks}
          problems={problems}
          onBlocks={onBlocks}
          onComment={message && onComment}
        >
          {(editor, sheet) => (
            <>
              <Going editor={editor} wanted={wanted} language={language} />
              <Going editor={editor} wanted={asked} language={language} />
              {onCaret && <CaretTeller editor={editor} onCaret={onCaret} />}
              {may && (
                <div className={classes.tools}>
                  <Tools
                    editor={editor}
                    active={active}
                    canUndo={canUndo}
                    canRedo={canRedo}
                    onUndo={undo}
                    onRedo={redo}
                    onAsText={setAsText}
                    onFind={onFind}
                    onVersions={message ? onVersions : undefined}
                    saved={message?.id}
                  />
                  {finding && (
                    <FindReplace content={content} onContent={put} onClose={() => setFinding(false)} />
                  )}
                </div>
              )}
              {shared && (
                <p className={classes.usedIn}>
                  A shared block: it has no subject of its own.{" "}
                  {message.used_in.length > 0
                    ? `Once it is saved, ${message.used_in.join(", ")} will say the same.`
                    : "No message has it yet."}
                </p>
              )}
              <div className={classes.lines} hidden={shared}>
                <span aria-hidden>Subject</span>
                <MailboxLine
                  key={`subject ${at}`}
                  part="subject"
                  label="Subject"
                  placeholder="What stands in their mailbox"
                  value={content.subject}
                  problems={problems}
                  onPut={put}
                />
                <span aria-hidden>Preheader</span>
                <MailboxLine
                  key={`preheader ${at}`}
                  part="preheader"
                  label="Preheader"
                  placeholder="The line beside the subject, if you like"
                  value={content.preheader}
                  problems={problems}
                  onPut={put}
                />
              </div>
              <div
                className={classes.sheet}
                data-margin={inBlocks.length > 0 || at !== undefined || undefined}
              >
                {sheet}
                {at !== undefined && inBlocks.length === 0 && <MainWords content={whole} />}
                {inBlocks.length > 0 && (
                  <aside className={classes.margin} aria-label="What is wrong">
                    <Faults problems={inBlocks} onGo={(one) => goTo(editor, one)} />
                  </aside>
                )}
              </div>
            </>
          )}
        </SheetEditor>
        <Faults
          problems={problems.filter((one) => ["blocks", "needed", "language", "others"].includes(one.part))}
        />
        {at === undefined && elsewhere > 0 && (
          <p className="soft">
            {elsewhere === 1 ? "One fault is" : `${elsewhere} faults are`} in the words in other languages.
          </p>
        )}
        {at === undefined && !shared && (
          <Attachments
            attachments={whole.attachments}
            languages={languages}
            messageId={message?.id}
            problems={ofAttachments}
            onAttachments={onAttachments}
          />
        )}
        <div className={classes.settings} hidden={at !== undefined || shared}>
          <MessageSettings
            language={content.language}
            needed={content.needed}
            vocabulary={vocabulary}
            onEdit={edit}
          />
        </div>
        {message && (
          <Comments messageId={message.id} content={calm} language={language} pointed={pointed} onGo={onGo} />
        )}
        {message && (
          <Versions
            message={message}
            content={versions ? whole : EMPTY}
            opened={versions}
            onClose={onVersionsClosed}
            onRestore={onRestore}
          />
        )}
      </div>
    </WritingProvider>
  );
}
