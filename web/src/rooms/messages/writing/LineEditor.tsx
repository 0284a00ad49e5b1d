import { EditorContent } from "@tiptap/react";
import { memo, useMemo } from "react";
import type { Schemas } from "../../../api";
import { lineOf, lineOfNode, type Repeated } from "../../../core/writing";
import { ChipSettings } from "./ChipSettings";
import { useWriting } from "./context";
import { Faults } from "./Faults";
import { FieldMenu } from "./FieldMenu";
import classes from "./LineEditor.module.css";
import { lineExtensions } from "./nodes";
import { useEditorOf } from "./useEditorOf";

interface LineEditorProps {
  label: string;
  value: string;
  onChange: (value: string) => void;
  placeholder?: string;
  /** What is repeated around it. */
  within?: Repeated | undefined;
  problems?: Schemas["PartProblemView"][];
  /** In the type of codes: an address. */
  code?: boolean;
  /** Without a frame of its own, as a cell. */
  bare?: boolean;
  tooLong?: string | undefined;
}

/** One line of words and inlays: a subject, a label, a cell, an address. */
export const LineEditor = memo(function LineEditor(props: LineEditorProps) {
  const { label, value, onChange, placeholder = "", within, problems = [], code, bare, tooLong } = props;
  const { labelOf } = useWriting();
  const faulty = problems.length > 0 || tooLong !== undefined;
  const attributes = useMemo(
    () => ({
      role: "textbox",
      "aria-label": label,
      "aria-multiline": "false",
      class: classes.input ?? "",
      "data-placeholder": placeholder,
    }),
    [label, placeholder],
  );
  const { editor, store } = useEditorOf<string>({
    extensions: () => lineExtensions(labelOf),
    value,
    toSheet: (text) => ({ type: "doc", content: [{ type: "line", content: lineOf(text) }] }),
    fromSheet: (sheet) => lineOfNode(sheet.child(0)),
    onChange,
    single: true,
    within,
    attributes,
  });
  return (
    <div
      className={classes.line}
      data-code={code || undefined}
      data-bare={bare || undefined}
      data-faulty={faulty || undefined}
      data-empty={value === "" || undefined}
    >
      <EditorContent editor={editor} />
      <FieldMenu store={store} />
      <ChipSettings editor={editor} within={within} />
      <Faults problems={problems} tooLong={tooLong} onUse={onChange} />
    </div>
  );
});
