import { MultiSelect, NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { Editor } from "@tiptap/core";
import { NodeSelection, TextSelection } from "@tiptap/pm/state";
import { type KeyboardEvent, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { type Schemas, useMay, vocabularyQuery } from "../../../api";
import type { Content } from "../../../core/content";
import { withMainLanguage, withWords, wordsIn } from "../../../core/languages";
import { isBlank } from "../../../core/message";
import { tooLong } from "../../../core/words";
import { labelsOf } from "../../../core/writing";
import type { Caret, LetterPlace } from "../../../ui";
import { Attachments } from "../writing/Attachments";
import { type Writing, WritingProvider } from "../writing/context";
import { Faults } from "../writing/Faults";
import { FindReplace } from "../writing/FindReplace";
import { Languages, MainWords } from "../writing/Languages";
import { LineEditor } from "../writing/LineEditor";
import { partAt, placeOfPart } from "../writing/places";
import { type Pointed, wordsOfProblem } from "../writing/problems";
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

/** A place in the words, as the lens tells it. */
export interface Wanted {
  place: LetterPlace;
  language: string;
}

/** The words of a message: subject, preheader, blocks, and for whom they can be. */
export function MessageEditor(props: MessageEditorProps) {
  const { blanks } = props;
  const { data } = useQuery(vocabularyQuery);
  const vocabulary = useMemo(() => data && withBlanks(data, blanks), [data, blanks]);
  return vocabulary ? <Words {...props} vocabulary={vocabulary} /> : null;
}

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
  const put = (change: Partial<Content>) =>
    edit((now) => withWords(now, at, { ...wordsIn(now, at), ...change }));
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
      onActive: setActive,
    }),
    [vocabulary, labelOf, asText, may, contactId, content.language, shared, ofReaders],
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
  const line = (part: "subject" | "preheader") => ({
    value: content[part],
    problems: problems.filter((one) => one.part === part),
    tooLong: tooLong(content[part], 2_000),
    onChange: (value: string) => put({ [part]: value }),
  });
  const own = vocabulary.languages.find((one) => one.code === vocabulary.locale.slice(0, 2))?.name;
  const inBlocks = problems.filter((one) => one.part.startsWith("blocks."));
  return (
    <WritingProvider value={writing}>
      <div className={classes.editor} onKeyDownCapture={press}>
        <Languages
          content={whole}
          vocabulary={vocabulary}
          at={at}
          may={may}
          onAt={setChosen}
          onContent={(next) => edit(() => next)}
        />
        <SheetEditor
          key={at}
          blocks={content.blocks}
          problems={problems}
          onBlocks={(blocks) => put({ blocks })}
          onComment={message && ((id) => setPointed({ id, language }))}
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
                    onFind={() => setFinding(true)}
                    onVersions={message ? () => setVersions(true) : undefined}
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
                <LineEditor
                  key={`subject ${at}`}
                  bare
                  label="Subject"
                  placeholder="What stands in their mailbox"
                  {...line("subject")}
                />
                <span aria-hidden>Preheader</span>
                <LineEditor
                  key={`preheader ${at}`}
                  bare
                  label="Preheader"
                  placeholder="The line beside the subject, if you like"
                  {...line("preheader")}
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
            languages={[whole.language, ...whole.others.map((one) => one.language)]}
            messageId={message?.id}
            problems={problems}
            onAttachments={(attachments) => edit((now) => ({ ...now, attachments }))}
          />
        )}
        <div className={classes.settings} hidden={at !== undefined || shared}>
          <NativeSelect
            label="Language"
            description="Dates, amounts and the footer are written in it"
            value={content.language}
            data={[
              { value: "", label: `the organisation's${own ? `, ${own}` : ""}` },
              ...vocabulary.languages.map((one) => ({ value: one.code, label: one.name })),
            ]}
            onChange={({ currentTarget: { value } }) => edit((now) => withMainLanguage(now, value))}
          />
          <MultiSelect
            label="Required fields"
            description="Whoever lacks one of these is held by a gate and named there"
            placeholder={content.needed.length ? "" : "nothing in particular"}
            data={needable(vocabulary.fields, content.needed)}
            value={content.needed}
            searchable
            onChange={(needed) => edit((now) => ({ ...now, needed }))}
          />
        </div>
        {message && (
          <Comments
            messageId={message.id}
            content={whole}
            language={language}
            pointed={pointed}
            onGo={(part, inLanguage) => setAsked({ place: { part, start: 0, end: 0 }, language: inLanguage })}
          />
        )}
        {message && (
          <Versions
            message={message}
            content={whole}
            opened={versions}
            onClose={() => setVersions(false)}
            onRestore={(next) => {
              setChosen(undefined);
              edit(() => next);
            }}
          />
        )}
      </div>
    </WritingProvider>
  );
}

/** Goes once to each place that is wanted, when the words of its language are on screen. */
function Going({
  editor,
  wanted,
  language,
}: {
  editor: Editor;
  wanted: Wanted | undefined;
  language: string;
}) {
  const went = useRef<Wanted>(undefined);
  useEffect(() => {
    if (!wanted || went.current === wanted) return;
    // The main words are shown to whoever reads none of the others: their language has no words of its own here.
    if (language !== "" && language !== wanted.language) return;
    went.current = wanted;
    const { part, start, end } = wanted.place;
    goTo(editor, { part, problem: { start, end } });
  }, [editor, wanted, language]);
  return null;
}

/** Tells where the caret is, when it is elsewhere than it was. */
function CaretTeller({ editor, onCaret }: { editor: Editor; onCaret: (caret: Caret | undefined) => void }) {
  useEffect(() => {
    let told = "";
    const tell = () => {
      const caret = partAt(editor.state.selection.$from);
      const next = caret ? `${caret.part} ${caret.sign}` : "";
      if (next === told) return;
      told = next;
      onCaret(caret);
    };
    editor.on("selectionUpdate", tell);
    return () => {
      editor.off("selectionUpdate", tell);
    };
  }, [editor, onCaret]);
  return null;
}

/** The caret to the very words that a problem speaks of, or the block chosen that has them. */
function goTo(editor: Editor, problem: Pointed): void {
  const { state } = editor;
  const place = placeOfPart(state.doc, problem.part);
  if (!place) return;
  const words = wordsOfProblem(place, problem);
  const chip = words && state.doc.nodeAt(words.from)?.type.name === "inlay";
  const selection = chip
    ? NodeSelection.create(state.doc, words.from)
    : words
      ? TextSelection.between(state.doc.resolve(words.from), state.doc.resolve(words.to))
      : NodeSelection.isSelectable(place.node)
        ? NodeSelection.create(state.doc, place.from)
        : TextSelection.near(state.doc.resolve(place.from + 1));
  editor.view.dispatch(state.tr.setSelection(selection).scrollIntoView());
  editor.view.focus();
}

/** The fields that can be asked for, besides the address that everybody has; one that is gone stays to be taken out. */
function needable(fields: Schemas["FieldView"][], needed: string[]) {
  const there = fields.filter((one) => one.key !== "address");
  const gone = needed.filter((key) => fields.length > 0 && !fields.some((one) => one.key === key));
  return [
    ...there.map((one) => ({ value: one.key, label: one.label })),
    ...gone.map((key) => ({ value: key, label: `${key}?` })),
  ];
}
