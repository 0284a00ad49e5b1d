import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import type { Schemas } from "../../../api";
import type { MessagePdf } from "../../../core/attachments";
import { messagesQuery } from "../queries";
import { AttachmentRow } from "./AttachmentRow";
import classes from "./Attachments.module.css";
import { useWriting } from "./context";
import { Faults } from "./Faults";
import { LineEditor } from "./LineEditor";

interface MessagePdfRowProps {
  pdf: MessagePdf;
  messageId: number | undefined;
  problems: Schemas["PartProblemView"][];
  onPdf: (pdf: MessagePdf) => void;
  end: ReactNode;
}

/** The words of this message, or of another one, as a PDF that each person gets with their own values in it. */
export function MessagePdfRow({ pdf, messageId, problems, onPdf, end }: MessagePdfRowProps) {
  const { may } = useWriting();
  const { data: messages } = useQuery(messagesQuery);
  const others = messages?.filter(
    (one) =>
      one.id !== messageId && !one.is_shared && (one.put_away_at === null || one.id === pdf.message_id),
  );
  const known = pdf.message_id === null || others?.some((one) => one.id === pdf.message_id);
  return (
    <AttachmentRow kind="pdf" end={end}>
      <div className={classes.when}>
        <NativeSelect
          aria-label="Which message"
          disabled={!may}
          value={pdf.message_id === null ? "" : String(pdf.message_id)}
          data={[
            { value: "", label: "this message" },
            ...(others ?? []).map((one) => ({ value: String(one.id), label: `the message “${one.name}”` })),
            ...(known
              ? []
              : [{ value: String(pdf.message_id), label: "a message that is not here any more" }]),
          ]}
          onChange={(event) => {
            const chosen = event.currentTarget.value;
            onPdf({ ...pdf, message_id: chosen ? Number(chosen) : null });
          }}
        />
        <span className="faint">as a PDF, with each person's own values</span>
      </div>
      <LineEditor
        label="What the PDF is called"
        placeholder="Its subject, unless you write a name here"
        value={pdf.name}
        problems={problems.filter((one) => one.part === "name")}
        onChange={(name) => onPdf({ ...pdf, name })}
      />
      <Faults problems={problems.filter((one) => one.part === "language")} />
    </AttachmentRow>
  );
}
