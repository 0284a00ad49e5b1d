import { Button, Popover } from "@mantine/core";
import { NodeViewContent, type NodeViewProps, NodeViewWrapper } from "@tiptap/react";
import { useState } from "react";
import { CriteriaBox } from "../CriteriaBox";
import { addArm, run, unwrap } from "../commands";
import { useWriting } from "../context";
import { repeatedAt } from "../places";
import { Rail } from "./Rail";
import classes from "./views.module.css";

/** Blocks for some people only: each arm says for whom. */
export function OnlyView({ editor, getPos, node }: NodeViewProps) {
  const { may } = useWriting();
  const at = () => getPos() ?? 0;
  const whole = node.lastChild?.type.name === "otherwise";
  return (
    <NodeViewWrapper className={classes.only}>
      <NodeViewContent />
      {may && (
        <div className={classes.foot} contentEditable={false}>
          <button type="button" onClick={() => run(editor, addArm(at(), ""))}>
            + else for others
          </button>
          {!whole && (
            <button type="button" onClick={() => run(editor, addArm(at(), undefined))}>
              + else for everybody else
            </button>
          )}
          <button type="button" onClick={() => run(editor, unwrap(at()))}>
            for everybody after all
          </button>
        </div>
      )}
    </NodeViewWrapper>
  );
}

/** The blocks for those who meet the criteria. */
export function ArmView({ editor, getPos, node, updateAttributes }: NodeViewProps) {
  const { may, readers } = useWriting();
  const criteria = String(node.attrs.criteria);
  const [open, setOpen] = useState(may && criteria === "");
  const $at = editor.state.doc.resolve(getPos() ?? 0);
  const read = readers?.[String($at.parent.attrs.id)]?.[$at.index()];
  return (
    <Rail
      kind="some"
      figure={read}
      head={
        <Popover
          opened={open}
          onChange={setOpen}
          position="bottom-start"
          width={620}
          shadow="md"
          trapFocus
          returnFocus
        >
          <Popover.Target>
            <Button
              variant="subtle"
              size="compact-xs"
              className={classes.said ?? ""}
              disabled={!may}
              onClick={() => setOpen(!open)}
            >
              {$at.index() === 0 ? "only for" : "else for"} {criteria || "… choose whom"}
            </Button>
          </Popover.Target>
          <Popover.Dropdown>
            <CriteriaBox
              criteria={criteria}
              within={repeatedAt($at)}
              onCriteria={(next) => updateAttributes({ criteria: next })}
            />
            <Button mt={8} size="compact-sm" variant="filled" onClick={() => setOpen(false)}>
              Done
            </Button>
          </Popover.Dropdown>
        </Popover>
      }
    />
  );
}

/** The blocks for everybody else, or for whoever has no record. */
export function OtherwiseView({ editor, getPos }: NodeViewProps) {
  const { readers } = useWriting();
  const $at = editor.state.doc.resolve(getPos() ?? 0);
  const within = $at.parent.type.name;
  const read = within === "each" ? undefined : readers?.[String($at.parent.attrs.id)]?.[$at.index()];
  return (
    <Rail kind="rest" figure={read} head={within === "each" ? "with none" : "else for everybody else"} />
  );
}
