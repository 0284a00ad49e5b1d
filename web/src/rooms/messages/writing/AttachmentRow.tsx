import { Button, NativeSelect } from "@mantine/core";
import type { ReactNode } from "react";
import type { Attachment } from "../../../core/attachments";
import classes from "./Attachments.module.css";
import { useWriting } from "./context";

interface AttachmentRowProps {
  /** What it is, in a few letters. */
  kind: string;
  /** What stands at its end: with whose words it goes, and the way to remove it. */
  end: ReactNode;
  children: ReactNode;
}

/** An attachment of which there is more to say than its name. */
export function AttachmentRow({ kind, end, children }: AttachmentRowProps) {
  return (
    <div className={classes.row} data-entry>
      <span className={classes.kind}>{kind}</span>
      <div className={classes.entry}>{children}</div>
      {end}
    </div>
  );
}

interface RowEndProps {
  attachment: Attachment;
  /** The languages in which the message has words, the main one first. */
  languages: readonly string[];
  onLanguage: (language: string | null) => void;
  onTake: () => void;
}

const EVERYBODY = "everybody";

/** With whose words an attachment goes, where there are several, and the way to remove it. */
export function RowEnd({ attachment, languages, onLanguage, onTake }: RowEndProps) {
  const { may, vocabulary } = useWriting();
  const nameOf = (code: string) => vocabulary.languages.find((one) => one.code === code)?.name ?? code;
  const language = attachment.language ?? null;
  const gone = language !== null && !languages.includes(language);
  return (
    <div className={classes.end}>
      {(languages.length > 1 || gone) && (
        <NativeSelect
          size="xs"
          aria-label="To whom it goes"
          disabled={!may}
          error={gone}
          value={language ?? EVERYBODY}
          data={[
            { value: EVERYBODY, label: "to everybody" },
            ...[...languages, ...(gone ? [language] : [])].map((code) => ({
              value: code,
              label: code === "" ? "with the main words" : `with the words in ${nameOf(code)}`,
            })),
          ]}
          onChange={({ currentTarget: { value } }) => onLanguage(value === EVERYBODY ? null : value)}
        />
      )}
      {may && (
        <Button size="compact-xs" variant="subtle" onClick={onTake}>
          Remove
        </Button>
      )}
    </div>
  );
}
