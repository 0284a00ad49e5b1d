import { Textarea } from "@mantine/core";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import type { BlockOf } from "../../../../core/content";
import { tooLong } from "../../../../core/words";
import { useWriting } from "../context";
import { Faults } from "../Faults";
import { useProblemsAt } from "../problems";
import classes from "./views.module.css";

/** HTML as it is written, for what no other block says; the lens shows what becomes of it. */
export function HtmlView({ editor, getPos, node, selected, updateAttributes }: NodeViewProps) {
  const { may } = useWriting();
  const block = node.attrs.block as BlockOf<"html">;
  const problems = useProblemsAt(editor, getPos);
  return (
    <NodeViewWrapper className={classes.setting} data-selected={selected || undefined}>
      <b className={classes.kind}>HTML</b>
      <Textarea
        size="xs"
        aria-label="HTML of this block"
        classNames={{ input: "mono" }}
        description="Inlays stand in words and in addresses. Scripts, forms and outer styles have no place in a letter."
        placeholder="<table>…</table>"
        autosize
        minRows={3}
        maxRows={16}
        spellCheck={false}
        readOnly={!may}
        value={block.source}
        error={tooLong(block.source, LONGEST)}
        onChange={(event) => updateAttributes({ block: { ...block, source: event.currentTarget.value } })}
      />
      <Faults problems={problems} />
    </NodeViewWrapper>
  );
}

/** So many signs of it the server takes. */
const LONGEST = 50_000;
