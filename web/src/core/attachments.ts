/** What goes with a message besides its words: files, messages as PDFs, and entries for a calendar. */
import type { Content } from "./content";
import { someId } from "./ids";

export type Attachment = Content["attachments"][number];
export type AttachedFile = Extract<Attachment, { kind: "file" }>;
export type OwnFiles = Extract<Attachment, { kind: "own" }>;
export type MessagePdf = Extract<Attachment, { kind: "pdf" }>;
export type CalendarEntry = Extract<Attachment, { kind: "entry" }>;

/** A file that goes with everybody's message; it is called as it was when it was uploaded. */
export const newFile = ({ file, name }: { file: string; name: string }): AttachedFile => ({
  kind: "file",
  id: someId(),
  language: null,
  file,
  name: name.replace(/\.[^.]*$/, ""),
});

export const newEntry = (): CalendarEntry => ({
  kind: "entry",
  id: someId(),
  language: null,
  title: "",
  place: "",
  note: "",
  day: "",
  time: "",
  minutes: 60,
});

/** A file for each person, to be uploaded. */
export const newOwnFiles = (): OwnFiles => ({
  kind: "own",
  id: someId(),
  language: null,
  name: "",
  files: [],
  needed: false,
});

/** The message itself as a PDF; another one is chosen in its row. */
export const newPdf = (): MessagePdf => ({
  kind: "pdf",
  id: someId(),
  language: null,
  message_id: null,
  name: "",
});

/** Files with more of them: one of the same name is the newer one. At most so many are taken. */
export function withFiles(files: OwnFiles["files"], more: OwnFiles["files"]): OwnFiles["files"] {
  const named = new Map([...files, ...more].map((one) => [one.name, one]));
  return [...named.values()].slice(0, MOST_OWN_FILES);
}

export const MOST_OWN_FILES = 1_000;

export function sayAttachment(one: Attachment): string {
  return one.language === null
    ? sayWhat(one)
    : `${sayWhat(one)}, with the words in ${one.language || "the main language"}`;
}

function sayWhat(one: Attachment): string {
  switch (one.kind) {
    case "file":
      return `file ${one.name}`;
    case "own":
      return [
        "a file for each person",
        one.name,
        one.files.length === 1 ? "1 file" : `${one.files.length} files`,
        one.needed ? "needed" : "",
      ]
        .filter(Boolean)
        .join(", ");
    case "pdf":
      return ["PDF of", one.message_id === null ? "this message" : `message ${one.message_id}`, one.name]
        .filter(Boolean)
        .join(" ");
    default:
      return ["entry", one.title, one.place, one.day, one.time].filter(Boolean).join(" ");
  }
}

const KILO = 1024;

/** How large a file is, as people say it. */
export function sayBytes(bytes: number): string {
  if (bytes < 1000) return `${bytes} bytes`;
  if (bytes < 1000 * KILO) return `${Math.round(bytes / KILO)} KB`;
  return `${(bytes / KILO / KILO).toFixed(1)} MB`;
}

/** Is it a day that is the same for everybody, and no field that has one? */
export const isFixedDay = (day: string): boolean => /^\d{4}-\d\d-\d\d$/.test(day);
