import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { memo, type ReactNode, useRef } from "react";
import type { Schemas } from "../../../api";
import {
  type AttachedFile,
  type Attachment,
  type CalendarEntry,
  isFixedDay,
  newEntry,
  newFile,
  newOwnFiles,
  newPdf,
  sayBytes,
} from "../../../core/attachments";
import { attachmentsQuery } from "../queries";
import { AttachmentRow, RowEnd } from "./AttachmentRow";
import classes from "./Attachments.module.css";
import { useWriting } from "./context";
import { Faults } from "./Faults";
import { LineEditor } from "./LineEditor";
import { MessagePdfRow } from "./MessagePdfRow";
import { OwnFilesRow } from "./OwnFilesRow";
import { UploadChooser } from "./UploadChooser";

interface AttachmentsProps {
  attachments: readonly Attachment[];
  /** The languages in which the message has words, the main one first. */
  languages: readonly string[];
  problems: Schemas["PartProblemView"][];
  /** The message that they go with; none for one that is not saved yet. */
  messageId: number | undefined;
  onAttachments: (attachments: Attachment[]) => void;
}

/** What goes with the message: files for everybody or for each person, messages as PDFs, entries for calendars. */
export const Attachments = memo(function Attachments({
  attachments,
  languages,
  problems,
  messageId,
  onAttachments,
}: AttachmentsProps) {
  const { may } = useWriting();
  // An upload ends later than it began: what was attached meanwhile stays.
  const now = useRef(attachments);
  now.current = attachments;
  const add = (one: Attachment) => onAttachments([...now.current, one]);
  const put = (at: number, next: Attachment) =>
    onAttachments(attachments.map((one, index) => (index === at ? next : one)));
  const take = (at: number) => onAttachments(attachments.filter((_, index) => index !== at));
  const endOf = (one: Attachment, at: number) => (
    <RowEnd
      attachment={one}
      languages={languages}
      onLanguage={(language) => put(at, { ...one, language })}
      onTake={() => take(at)}
    />
  );
  if (!may && attachments.length === 0) return null;
  return (
    <section className={classes.attachments} aria-label="Attachments">
      <h2>Attachments</h2>
      {attachments.map((one, at) => {
        const prefix = `attachments.${at}.`;
        const own = problems
          .filter((problem) => problem.part.startsWith(prefix))
          .map((problem) => ({ ...problem, part: problem.part.slice(prefix.length) }));
        const named = { problems: own, end: endOf(one, at) };
        return one.kind === "file" ? (
          <FileRow key={one.id} {...named} file={one} onFile={(next) => put(at, next)} />
        ) : one.kind === "own" ? (
          <OwnFilesRow
            key={one.id}
            {...named}
            own={one}
            onOwn={(change) =>
              // Uploads end later than they began: what was changed meanwhile stays.
              onAttachments(
                now.current.map((other) =>
                  other.kind === "own" && other.id === one.id ? change(other) : other,
                ),
              )
            }
          />
        ) : one.kind === "pdf" ? (
          <MessagePdfRow
            key={one.id}
            {...named}
            messageId={messageId}
            pdf={one}
            onPdf={(next) => put(at, next)}
          />
        ) : (
          <EntryRow key={one.id} {...named} entry={one} onEntry={(next) => put(at, next)} />
        );
      })}
      {may && (
        <div className={classes.add}>
          <UploadChooser
            to="/api/attachments"
            words="Attach a file"
            before={attachmentsQuery}
            keyOf={(one) => one.file}
            show={(one) => (
              <>
                <span>{one.name}</span> <span className="faint">{sayBytes(one.size)}</span>
              </>
            )}
            onChosen={(file) => add(newFile(file))}
          />
          <Button size="compact-sm" onClick={() => add(newOwnFiles())}>
            A file for each person
          </Button>
          <Button size="compact-sm" onClick={() => add(newPdf())}>
            A message as PDF
          </Button>
          <Button size="compact-sm" onClick={() => add(newEntry())}>
            Calendar entry
          </Button>
        </div>
      )}
    </section>
  );
});

interface RowProps {
  problems: Schemas["PartProblemView"][];
  end: ReactNode;
}

function FileRow({
  file,
  problems,
  onFile,
  end,
}: RowProps & { file: AttachedFile; onFile: (file: AttachedFile) => void }) {
  const { data: kept } = useQuery(attachmentsQuery);
  const found = kept?.find((one) => one.file === file.file);
  const line = (part: string) => problems.filter((one) => one.part === part);
  return (
    <div className={classes.row}>
      <span className={classes.kind}>{found?.kind ?? "file"}</span>
      <LineEditor
        bare
        label="What the file is called"
        placeholder={found?.name ?? "the file's own name"}
        value={file.name}
        problems={line("name")}
        onChange={(name) => onFile({ ...file, name })}
      />
      <span className="faint">
        <a href={`/api/attachments/${file.file}`} download={found?.name ?? file.name}>
          {found ? sayBytes(found.size) : "open"}
        </a>
      </span>
      {end}
      <Faults problems={problems.filter((one) => one.part === "file" || one.part === "language")} />
    </div>
  );
}

const LENGTHS: readonly (readonly [number, string])[] = [
  [30, "half an hour"],
  [60, "an hour"],
  [90, "an hour and a half"],
  [120, "2 hours"],
  [180, "3 hours"],
  [240, "4 hours"],
  [480, "8 hours"],
];

function EntryRow({
  entry,
  problems,
  onEntry,
  end,
}: RowProps & { entry: CalendarEntry; onEntry: (entry: CalendarEntry) => void }) {
  const { may, vocabulary } = useWriting();
  const fixed = entry.day === "" || isFixedDay(entry.day);
  const dates = vocabulary.fields.filter((one) => one.type === "date" || one.type === "date_time");
  const known = fixed || dates.some((one) => one.key === entry.day);
  const lengths = LENGTHS.some(([minutes]) => minutes === entry.minutes)
    ? LENGTHS
    : [...LENGTHS, [entry.minutes, `${entry.minutes} minutes`] as const];
  const line = (part: "title" | "place" | "note", placeholder: string) => (
    <LineEditor
      label={{ title: "Title of the entry", place: "Place of the entry", note: "Note of the entry" }[part]}
      placeholder={placeholder}
      value={entry[part]}
      problems={problems.filter((one) => one.part === part)}
      onChange={(value) => onEntry({ ...entry, [part]: value })}
    />
  );
  const rest = problems.filter((one) => ["day", "time", "language"].includes(one.part));
  return (
    <AttachmentRow kind="entry" end={end}>
      {line("title", "What it is called in their calendar")}
      <div className={classes.when}>
        <NativeSelect
          aria-label="Which day"
          disabled={!may}
          value={fixed ? "" : entry.day}
          data={[
            { value: "", label: "on this day" },
            ...dates.map((one) => ({ value: one.key, label: `on the day in ${one.label}` })),
            ...(known ? [] : [{ value: entry.day, label: `${entry.day}?` }]),
          ]}
          onChange={(event) => onEntry({ ...entry, day: event.currentTarget.value })}
        />
        {fixed && (
          <TextInput
            type="date"
            aria-label="Day of the entry"
            disabled={!may}
            value={entry.day}
            onChange={(event) => onEntry({ ...entry, day: event.currentTarget.value })}
          />
        )}
        <TextInput
          type="time"
          aria-label="Time of the entry"
          disabled={!may}
          value={entry.time}
          onChange={(event) => onEntry({ ...entry, time: event.currentTarget.value })}
        />
        {entry.time ? (
          <NativeSelect
            aria-label="How long"
            disabled={!may}
            value={String(entry.minutes)}
            data={lengths.map(([minutes, label]) => ({ value: String(minutes), label }))}
            onChange={(event) => onEntry({ ...entry, minutes: Number(event.currentTarget.value) })}
          />
        ) : (
          <span className="faint">the whole day</span>
        )}
      </div>
      {line("place", "Where it is, if anywhere")}
      {line("note", "A note, if you like")}
      <Faults problems={rest} />
    </AttachmentRow>
  );
}
