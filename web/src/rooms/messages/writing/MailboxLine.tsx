import { useCallback, useMemo } from "react";
import type { Schemas } from "../../../api";
import type { Content } from "../../../core/content";
import { tooLong } from "../../../core/words";
import { LineEditor } from "./LineEditor";

interface MailboxLineProps {
  part: "subject" | "preheader";
  label: string;
  placeholder: string;
  value: string;
  /** What is wrong with the message: here that counts which is wrong with this part. */
  problems: Schemas["PartProblemView"][];
  onPut: (change: Partial<Content>) => void;
}

/** A line that stands beside the letter in a mailbox. */
export function MailboxLine({ part, problems, onPut, ...line }: MailboxLineProps) {
  const own = useMemo(() => problems.filter((one) => one.part === part), [problems, part]);
  const onChange = useCallback((value: string) => onPut({ [part]: value }), [onPut, part]);
  return (
    <LineEditor bare {...line} problems={own} tooLong={tooLong(line.value, 2_000)} onChange={onChange} />
  );
}
