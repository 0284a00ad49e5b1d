import { Menu } from "@mantine/core";
import type { Block } from "../../../core/content";
import { someId } from "../../../core/message";
import { freshBlock, KINDS } from "../../../core/writing";
import { useWriting } from "./context";

const ADDED = (Object.keys(KINDS) as Block["kind"][]).filter((kind) => KINDS[kind].about !== "");

/** The kinds of blocks that can be added, each with what it is for. */
export function AddItems({ onAdd }: { onAdd: (block: Block) => void }) {
  const { vocabulary } = useWriting();
  return ADDED.flatMap((kind) => {
    const block = freshBlock(kind, someId(), vocabulary.fields);
    return block ? (
      <Menu.Item key={kind} onClick={() => onAdd(block)}>
        <b>{KINDS[kind].words}</b>
        <div className="faint">{KINDS[kind].about}</div>
      </Menu.Item>
    ) : (
      []
    );
  });
}
