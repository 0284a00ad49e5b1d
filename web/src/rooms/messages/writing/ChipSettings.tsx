import { Button, NativeSelect, TextInput } from "@mantine/core";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import type { Editor } from "@tiptap/core";
import { NodeSelection, TextSelection } from "@tiptap/pm/state";
import { useEditorState } from "@tiptap/react";
import { type KeyboardEvent, memo, useRef, useState } from "react";
import { client, take } from "../../../api";
import { count } from "../../../core/words";
import {
  type Inlay,
  piecesOf,
  type Repeated,
  readInlay,
  UNFINISHED,
  writeInlay,
} from "../../../core/writing";
import classes from "./ChipSettings.module.css";
import { CriteriaBox } from "./CriteriaBox";
import { useWriting } from "./context";
import { repeatedAt } from "./places";

interface Chosen {
  at: number;
  source: string;
  repeated: Repeated | undefined;
  /** Where it stands on the screen, within the editor. */
  left: number;
  top: number;
}

/** What can be set about the chip that is chosen: its format and fallback, or for whom the words are. */
export const ChipSettings = memo(function ChipSettings({
  editor,
  within,
}: {
  editor: Editor;
  within?: Repeated | undefined;
}) {
  const chosen = useEditorState({
    editor,
    selector: ({ editor: here }): Chosen | null => chosenChip(here, within),
    equalityFn: (one, other) => JSON.stringify(one) === JSON.stringify(other),
  });
  const { may } = useWriting();
  if (!chosen || !may) return null;
  return <Panel key={chosen.at} editor={editor} chosen={chosen} />;
});

function chosenChip(editor: Editor, within: Repeated | undefined): Chosen | null {
  const { selection } = editor.state;
  if (!(selection instanceof NodeSelection) || selection.node.type.name !== "inlay") return null;
  if (editor.isDestroyed) return null;
  const box = editor.view.dom.parentElement?.getBoundingClientRect();
  const seat = editor.view.coordsAtPos(selection.from);
  return {
    at: selection.from,
    source: String(selection.node.attrs.source),
    repeated: repeatedAt(selection.$from) ?? within,
    left: Math.max(0, Math.min(seat.left - (box?.left ?? 0), (box?.width ?? 400) - 380)),
    top: seat.bottom - (box?.top ?? 0) + 5,
  };
}

function Panel({ editor, chosen }: { editor: Editor; chosen: Chosen }) {
  const inlay = readInlay(chosen.source);
  const { source } = chosen;
  function put(text: string) {
    if (piecesOf(text).length !== 1 || !piecesOf(text)[0]?.inlay) return;
    const { state } = editor;
    const tr = state.tr.setNodeMarkup(chosen.at, undefined, { source: text });
    editor.view.dispatch(tr.setSelection(NodeSelection.create(tr.doc, chosen.at)));
  }
  function leave() {
    const { state } = editor;
    editor.view.dispatch(state.tr.setSelection(TextSelection.create(state.doc, chosen.at + 1)));
    editor.view.focus();
  }
  function press(event: KeyboardEvent) {
    if (event.key === "Escape" || (event.key === "Enter" && !(event.target instanceof HTMLButtonElement))) {
      event.preventDefault();
      event.stopPropagation();
      leave();
    }
  }
  return (
    // biome-ignore lint/a11y/noStaticElementInteractions: keys of the inputs in it come through here
    <div
      className={classes.panel}
      style={{ left: chosen.left, top: chosen.top }}
      data-wide={inlay.role === "if" || inlay.role === "elif" || undefined}
      onKeyDown={press}
    >
      {inlay.role === "insert" && (
        <InsertSettings chosen={chosen} inlay={inlay} onInlay={(next) => put(writeInlay(next))} />
      )}
      {(inlay.role === "if" || inlay.role === "elif") && (
        <CriteriaBox
          criteria={inlay.value}
          within={chosen.repeated}
          onCriteria={(value) => put(writeInlay({ ...inlay, value: value.replace(/[\n}]/g, " ") }))}
        />
      )}
      {inlay.role === "note" && (
        <TextInput
          label="Note to colleagues, never sent"
          value={inlay.value}
          onChange={(event) => put(writeInlay({ ...inlay, value: event.currentTarget.value }))}
        />
      )}
      <SourceLine key={source} source={source} onSource={put} />
      <div className={classes.acts}>
        <Button size="compact-sm" variant="filled" onClick={leave}>
          Done
        </Button>
        <Button
          size="compact-sm"
          onClick={() => {
            editor.view.dispatch(editor.state.tr.delete(chosen.at, chosen.at + 1));
            editor.view.focus();
          }}
        >
          Remove
        </Button>
      </div>
    </div>
  );
}

/** The inlay as text, for whoever writes the language; what is no inlay is not taken. */
function SourceLine({ source, onSource }: { source: string; onSource: (text: string) => void }) {
  const [text, setText] = useState(source);
  const fits = piecesOf(text).length === 1 && piecesOf(text)[0]?.inlay;
  return (
    <TextInput
      size="xs"
      label="The inlay as text"
      classNames={{ input: "mono" }}
      value={text}
      error={!fits && "Begin with @{ and end with }."}
      onChange={(event) => setText(event.currentTarget.value)}
      onBlur={() => text !== source && onSource(text)}
      onKeyDown={(event) => event.key === "Enter" && text !== source && onSource(text)}
    />
  );
}

const DATE_PATTERNS: [string, string][] = [
  ["", "as usual"],
  ["d MMMM", "day and month"],
  ["d MMMM y", "day, month, year"],
  ["EEEE d MMMM", "weekday, day, month"],
  ["MMMM y", "month and year"],
  ["y", "year"],
];

interface InsertSettingsProps {
  chosen: Chosen;
  inlay: Inlay;
  onInlay: (inlay: Inlay) => void;
}

function InsertSettings({ chosen, inlay, onInlay }: InsertSettingsProps) {
  const { contactId, language, labelOf, vocabulary, ofReaders } = useWriting();
  const { variable = "", listed = "" } = chosen.repeated ?? {};
  const ask = { source: chosen.source, variable, listed, contact_id: contactId, language };
  const { data: view } = useQuery({
    queryKey: ["inlay", ask],
    queryFn: ({ signal }) => take(client.POST("/api/inlay", { signal, body: ask })),
    placeholderData: keepPreviousData,
  });
  const wanting = useRef(inlay.fallback === UNFINISHED);
  const formats = view?.formats ?? (inlay.format ? [inlay.format] : []);
  const patterns = DATE_PATTERNS.some(([pattern]) => pattern === inlay.pattern)
    ? DATE_PATTERNS
    : [...DATE_PATTERNS, [inlay.pattern, inlay.pattern] as [string, string]];
  const field = vocabulary.fields.find((one) => one.key === inlay.value);
  return (
    <>
      <div className={classes.what}>
        <b>{labelOf(inlay.value) ?? inlay.value}</b>
        {field && field.blank > 0 && (
          <span className="soft">
            {field.estimated && "about "}
            {count(field.blank)}{" "}
            {ofReaders ? "of those who get it" : field.blank === 1 ? "contact" : "contacts"}{" "}
            {field.blank === 1 ? "has none" : "have none"}
          </span>
        )}
      </div>
      <div className={classes.two}>
        {formats.length > 1 && (
          <NativeSelect
            size="xs"
            label="Shown as"
            value={inlay.format}
            data={[
              { value: "", label: "usual" },
              ...formats.map((one) => ({ value: one, label: one.replace("_", " and ") })),
            ]}
            onChange={(event) => onInlay({ ...inlay, format: event.currentTarget.value, pattern: "" })}
          />
        )}
        {(view?.type === "date" || view?.type === "date_time") && (
          <NativeSelect
            size="xs"
            label="Written"
            value={inlay.pattern}
            data={patterns.map(([value, label]) => ({ value, label }))}
            onChange={(event) => {
              const pattern = event.currentTarget.value;
              onInlay({ ...inlay, format: pattern || inlay.format ? "date" : "", pattern });
            }}
          />
        )}
        <TextInput
          size="xs"
          label="For who has none"
          placeholder="nothing stands there"
          autoFocus={wanting.current}
          value={inlay.fallback === UNFINISHED ? "" : (inlay.fallback ?? "")}
          onChange={(event) => onInlay({ ...inlay, fallback: event.currentTarget.value || undefined })}
        />
      </div>
      <p className={classes.example} aria-live="polite">
        {view?.problem ??
          (view?.example !== null && view?.example !== undefined ? (
            <>
              Read here: <b>{view.example || "nothing"}</b>
            </>
          ) : null)}
      </p>
    </>
  );
}
