import type { Editor } from "@tiptap/core";
import { EditorContent } from "@tiptap/react";
import { type ReactNode, useEffect, useMemo, useRef, useState } from "react";
import type { Schemas } from "../../../api";
import type { Block } from "../../../core/content";
import { blocksOf, sheetOf } from "../../../core/writing";
import { BlockHandle } from "./BlockHandle";
import { ChipSettings } from "./ChipSettings";
import { useWriting } from "./context";
import { FieldMenu } from "./FieldMenu";
import { sheetExtensions } from "./nodes";
import { ProblemMarks, ProblemsProvider, showProblems } from "./problems";
import { ShareBlocks, type Sharing } from "./ShareBlocks";
import classes from "./SheetEditor.module.css";
import { useEditorOf } from "./useEditorOf";
import { SHEET_VIEWS } from "./views";

interface SheetEditorProps {
  blocks: Block[];
  problems: Schemas["PartProblemView"][];
  onBlocks: (blocks: Block[]) => void;
  /** Say something of a block; undefined where nothing can be said yet. */
  onComment?: ((id: string) => void) | undefined;
  /** What stands around the sheet and needs its editor: the tools above, the margin beside. */
  children: (editor: Editor, sheet: ReactNode) => ReactNode;
}

/** The blocks of a message, written as they look. */
export function SheetEditor({ blocks, problems, onBlocks, onComment, children }: SheetEditorProps) {
  const { labelOf, may, shared } = useWriting();
  const [sharing, setSharing] = useState<Sharing>();
  const paper = useRef<HTMLDivElement>(null);
  const attributes = useMemo(
    () => ({
      role: "textbox",
      "aria-label": "Words of the message",
      "aria-multiline": "true",
      class: classes.sheet ?? "",
    }),
    [],
  );
  const { editor, store } = useEditorOf<Block[]>({
    extensions: () => [...sheetExtensions(labelOf, SHEET_VIEWS), ProblemMarks],
    value: blocks,
    toSheet: sheetOf,
    fromSheet: blocksOf,
    onChange: onBlocks,
    single: false,
    attributes,
  });
  useEffect(() => showProblems(editor, problems), [editor, problems]);
  const empty = blocks.length === 1 && blocks[0]?.kind === "paragraph" && blocks[0].text.length === 0;
  return (
    <ProblemsProvider value={problems}>
      {children(
        editor,
        <div className={classes.paper} ref={paper} data-empty={empty || undefined}>
          <EditorContent editor={editor} />
          {empty && (
            <div className={classes.begin}>
              Write here. <kbd>@</kbd> inserts a person's own data; “Add…” puts in buttons, tables and
              pictures.
            </div>
          )}
          {may && (
            <BlockHandle
              editor={editor}
              paper={paper}
              onShare={shared ? undefined : setSharing}
              onComment={onComment}
            />
          )}
          {sharing && <ShareBlocks editor={editor} sharing={sharing} onClose={() => setSharing(undefined)} />}
          <FieldMenu store={store} />
          <ChipSettings editor={editor} />
        </div>,
      )}
    </ProblemsProvider>
  );
}
