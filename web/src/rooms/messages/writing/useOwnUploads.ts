import { useState } from "react";
import { type Schemas, sendFile, wordsOf } from "../../../api";
import type { OwnFiles } from "../../../core/attachments";

interface Uploads {
  /** How many of those that were chosen are through; undefined while none are on their way. */
  going: { done: number; total: number } | undefined;
  /** What was not taken of those that were chosen last, and why. */
  refused: { name: string; words: string }[];
  send: (files: File[]) => Promise<void>;
}

/** Files that are uploaded one after the other; each counts as soon as it is there. */
export function useOwnUploads(onKept: (file: OwnFiles["files"][number]) => void): Uploads {
  const [going, setGoing] = useState<Uploads["going"]>();
  const [refused, setRefused] = useState<Uploads["refused"]>([]);
  async function send(files: File[]) {
    setRefused([]);
    for (const [done, file] of files.entries()) {
      setGoing({ done, total: files.length });
      try {
        const { file: digest, name } = await sendFile<Schemas["AttachmentView"]>("/api/attachments", file);
        onKept({ file: digest, name });
      } catch (fault) {
        setRefused((all) => [...all, { name: file.name, words: wordsOf(fault) }]);
      }
    }
    setGoing(undefined);
  }
  return { going, refused, send };
}
