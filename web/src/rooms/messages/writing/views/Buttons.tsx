import { NodeViewContent, type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import { LineEditor } from "../LineEditor";
import { ListChooser, type Over } from "../ListChooser";
import { repeatedAt } from "../places";
import { useProblemsAt } from "../problems";
import classes from "./views.module.css";

/** A button as it looks, and where it leads. */
export function ButtonView({ editor, getPos, node, updateAttributes }: NodeViewProps) {
  const over = node.type.name === "buttons";
  const problems = useProblemsAt(editor, getPos, "url");
  const at = editor.state.doc.resolve(getPos() ?? 0);
  const { variable, listed } = node.attrs as Over;
  return (
    <NodeViewWrapper className={classes.buttonBlock}>
      {over && (
        <div className={classes.head} contentEditable={false}>
          <ListChooser over={node.attrs as Over} onOver={updateAttributes} />
        </div>
      )}
      <div className={classes.buttonRow}>
        <NodeViewContent
          className={classes.button}
          data-empty={node.content.size === 0 || undefined}
          data-placeholder="What the button says"
        />
        <div className={classes.leads} contentEditable={false}>
          <span className="faint">leads to</span>
          <LineEditor
            label="Address of the button"
            placeholder="https://…"
            code
            value={String(node.attrs.url)}
            within={over ? { variable, listed } : repeatedAt(at)}
            problems={problems}
            onChange={(url) => updateAttributes({ url })}
          />
        </div>
      </div>
    </NodeViewWrapper>
  );
}
