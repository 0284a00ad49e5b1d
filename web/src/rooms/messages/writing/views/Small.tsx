import { NodeViewContent, type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import type { BlockOf } from "../../../../core/content";
import { NumberField } from "../../../../ui";
import classes from "./views.module.css";

/** A thin line. */
export function DividerView({ selected }: NodeViewProps) {
  return (
    <NodeViewWrapper className={classes.divider} data-selected={selected || undefined}>
      <hr />
    </NodeViewWrapper>
  );
}

/** Room between blocks. */
export function SpaceView({ node, selected, updateAttributes }: NodeViewProps) {
  const block = node.attrs.block as BlockOf<"space">;
  return (
    <NodeViewWrapper
      className={classes.space}
      data-selected={selected || undefined}
      style={{ minHeight: block.height }}
    >
      <span className="faint">space of</span>
      <NumberField
        size="xs"
        aria-label="Height in pixels"
        whole
        value={block.height}
        min={4}
        max={200}
        onNumber={(height) => updateAttributes({ block: { ...block, height } })}
      />
      <span className="faint">pixels</span>
    </NodeViewWrapper>
  );
}

/** What is of a later version of the application. */
export function KeptView({ node, selected }: NodeViewProps) {
  const { kind } = node.attrs.block as { kind: string };
  return (
    <NodeViewWrapper className={classes.setting} data-selected={selected || undefined}>
      <b className={classes.kind}>{kind}</b>
      <span className="soft">It is kept as it is; here it can be moved and removed.</span>
    </NodeViewWrapper>
  );
}

/** Blocks beside each other. */
export function ColumnsView() {
  return (
    <NodeViewWrapper className={classes.columns}>
      <NodeViewContent />
    </NodeViewWrapper>
  );
}
