import { Link } from "@tanstack/react-router";
import { type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import type { BlockOf } from "../../../../core/content";
import { sayBlock, sayPlainly } from "../../../../core/writing";
import { openShared, run } from "../commands";
import { useWriting } from "../context";
import { Faults } from "../Faults";
import { useProblemsAt } from "../problems";
import classes from "./views.module.css";

/** A shared block: what it says, and where it is written. */
export function SharedView({ editor, getPos, node, selected }: NodeViewProps) {
  const { may } = useWriting();
  const block = node.attrs.block as BlockOf<"shared">;
  const problems = useProblemsAt(editor, getPos);
  return (
    <NodeViewWrapper
      className={classes.setting}
      data-selected={selected || undefined}
      role="group"
      aria-label={`Shared block ${block.name}`}
    >
      <div className={classes.inRow}>
        <b className={classes.kind}>{block.name}</b>
        <span className="faint">shared block, the same in every message that has it</span>
      </div>
      <div className={classes.sharedWords}>
        {block.blocks.map((one) => (
          <p key={one.id}>{sayPlainly(sayBlock(one))}</p>
        ))}
      </div>
      <Faults problems={problems} />
      <div className={classes.foot}>
        <Link to="/messages/$id" params={{ id: String(block.message_id) }}>
          {may ? "Change it for all" : "Open it"}
        </Link>
        {may && (
          <button type="button" onClick={() => run(editor, openShared(getPos() ?? 0))}>
            Make the words this message’s own
          </button>
        )}
      </div>
    </NodeViewWrapper>
  );
}
