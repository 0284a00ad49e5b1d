import { Button, Checkbox, FileButton } from "@mantine/core";
import type { ReactNode } from "react";
import type { Schemas } from "../../../api";
import { MOST_OWN_FILES, type OwnFiles, withFiles } from "../../../core/attachments";
import { count } from "../../../core/words";
import { Trouble } from "../../../ui";
import { AttachmentRow } from "./AttachmentRow";
import classes from "./Attachments.module.css";
import { useWriting } from "./context";
import { Faults } from "./Faults";
import { LineEditor } from "./LineEditor";
import { useOwnUploads } from "./useOwnUploads";

interface OwnFilesRowProps {
  own: OwnFiles;
  problems: Schemas["PartProblemView"][];
  onOwn: (change: (own: OwnFiles) => OwnFiles) => void;
  end: ReactNode;
}

/** A file for each person, found by its name among those that were uploaded. */
export function OwnFilesRow({ own, problems, onOwn, end }: OwnFilesRowProps) {
  const { may } = useWriting();
  const { going, refused, send } = useOwnUploads((file) =>
    onOwn((now) => ({ ...now, files: withFiles(now.files, [file]) })),
  );
  const { files } = own;
  return (
    <AttachmentRow kind="each" end={end}>
      <LineEditor
        label="What each person's file is called"
        placeholder="Such as certificate, then @ and the field that stands in each name"
        value={own.name}
        problems={problems.filter((one) => one.part === "name")}
        onChange={(name) => onOwn((now) => ({ ...now, name }))}
      />
      <div className={classes.when}>
        {may && (
          <FileButton multiple onChange={(chosen) => void send(chosen)}>
            {(button) => (
              <Button {...button} size="compact-sm" variant="light" loading={going !== undefined}>
                Upload their files
              </Button>
            )}
          </FileButton>
        )}
        <span className="faint" role="status">
          {going
            ? `${count(going.done)} of ${count(going.total)} uploaded`
            : files.length === 0
              ? "none yet"
              : files.length === 1
                ? "1 file"
                : `${count(files.length)} files`}
          {files.length >= MOST_OWN_FILES && ", more are not taken"}
        </span>
        {may && files.length > 0 && (
          <Button size="compact-xs" variant="subtle" onClick={() => onOwn((now) => ({ ...now, files: [] }))}>
            Take them all out
          </Button>
        )}
      </div>
      {files.length > 0 && (
        <details>
          <summary className="soft">Their names</summary>
          <ul className={classes.names} aria-label="Names of the files">
            {files.map((one) => (
              <li key={one.name}>
                <a href={`/api/attachments/${one.file}`} download={one.name}>
                  {one.name}
                </a>
              </li>
            ))}
          </ul>
        </details>
      )}
      <Checkbox
        size="xs"
        label="Nobody gets the message without their file"
        checked={own.needed}
        disabled={!may}
        onChange={(event) => {
          const needed = event.currentTarget.checked;
          onOwn((now) => ({ ...now, needed }));
        }}
      />
      {refused.length > 0 && (
        <Trouble>
          {refused.length === 1 ? "1 file was" : `${refused.length} files were`} not taken:
          <ul className={classes.names}>
            {refused.map((one) => (
              <li key={one.name}>
                {one.name}: {one.words}
              </li>
            ))}
          </ul>
        </Trouble>
      )}
      <Faults problems={problems.filter((one) => one.part === "files")} />
    </AttachmentRow>
  );
}
