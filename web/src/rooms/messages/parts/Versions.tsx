import { Button, Drawer } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { May, type Schemas, useWords, wordsOf } from "../../../api";
import { type Compared, compared } from "../../../core/comparing";
import type { Content } from "../../../core/content";
import { readContent } from "../../../core/message";
import { Empty, Trouble } from "../../../ui";
import { versionQuery, versionsQuery } from "../queries";
import classes from "./Versions.module.css";

interface VersionsProps {
  message: Schemas["MessageView"];
  /** What is on screen. */
  content: Content;
  opened: boolean;
  onClose: () => void;
  /** Take the words of an earlier version into the editor. */
  onRestore: (content: Content) => void;
}

/** The versions of a message: what was otherwise, word by word, and the way back. */
export const Versions = memo(function Versions({
  message,
  content,
  opened,
  onClose,
  onRestore,
}: VersionsProps) {
  const words = useWords();
  const { data: versions, error } = useQuery({
    ...versionsQuery(message.id, message.number),
    enabled: opened,
  });
  const [chosen, setChosen] = useState<number>();
  const number = chosen ?? (message.number > 1 ? message.number - 1 : message.number);
  const { data: version } = useQuery({ ...versionQuery(message.id, number), enabled: opened });
  const older = version && readContent(version);
  const differences = older ? compared(older, content) : undefined;
  return (
    <Drawer
      opened={opened}
      onClose={onClose}
      position="right"
      size={720}
      closeButtonProps={{ "aria-label": "Close" }}
      title={<b>Versions</b>}
    >
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      <div className={classes.two}>
        <ul className={classes.list} aria-label="Versions">
          {versions?.map((one) => (
            <li key={one.number}>
              <button
                type="button"
                className={classes.version}
                aria-pressed={one.number === number}
                onClick={() => setChosen(one.number)}
              >
                <b>Version {one.number}</b>
                <span className="soft">{words.moment(one.created_at)}</span>
                {one.by && <span className="soft">{one.by}</span>}
                {one.runs.map((run) => (
                  <span key={run} className={classes.sent}>
                    sent: {run}
                  </span>
                ))}
              </button>
            </li>
          ))}
        </ul>
        <section aria-label={`Version ${number} compared`}>
          {older && (
            <May be="write">
              <Button
                mb={10}
                disabled={differences?.length === 0}
                onClick={() => {
                  onRestore(older);
                  onClose();
                }}
              >
                Take version {number} into the editor
              </Button>
            </May>
          )}
          {differences?.length === 0 && (
            <Empty title="No difference">Version {number} says what is on screen.</Empty>
          )}
          {differences && differences.length > 0 && (
            <p className="soft">
              From version {number} to what is on screen: <del className={classes.older}>taken out</del>{" "}
              <ins className={classes.newer}>put in</ins>
            </p>
          )}
          {differences?.map((one, at) => (
            <Line key={at} line={one} />
          ))}
        </section>
      </div>
    </Drawer>
  );
});

function Line({ line }: { line: Compared }) {
  return (
    <div className={classes.line}>
      <b>{line.what}</b>
      <p>
        {line.stretches.map((one, at) =>
          one.in === "older" ? (
            <del key={at} className={classes.older}>
              {one.text}
            </del>
          ) : one.in === "newer" ? (
            <ins key={at} className={classes.newer}>
              {one.text}
            </ins>
          ) : (
            <span key={at}>{one.text}</span>
          ),
        )}
        {line.onlySet && <i className="soft"> the same words, set otherwise</i>}
      </p>
    </div>
  );
}
