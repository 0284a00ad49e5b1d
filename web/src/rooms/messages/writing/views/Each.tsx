import { NodeViewContent, type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import { addArm, run, unwrap } from "../commands";
import { useWriting } from "../context";
import { ListChooser, type Over } from "../ListChooser";
import classes from "./views.module.css";

/** Blocks that are repeated for each record of a list. */
export function EachView({ editor, getPos, node, updateAttributes }: NodeViewProps) {
  const { may } = useWriting();
  const at = () => getPos() ?? 0;
  return (
    <NodeViewWrapper className={classes.rail} data-kind="each">
      <div className={classes.head} contentEditable={false}>
        <ListChooser over={node.attrs as Over} onOver={updateAttributes} />
      </div>
      <NodeViewContent className={classes.inside} />
      {may && (
        <div className={classes.foot} contentEditable={false}>
          {node.lastChild?.type.name !== "otherwise" && (
            <button type="button" onClick={() => run(editor, addArm(at(), undefined))}>
              + for whoever has none
            </button>
          )}
          <button type="button" onClick={() => run(editor, unwrap(at()))}>
            once after all
          </button>
        </div>
      )}
    </NodeViewWrapper>
  );
}
