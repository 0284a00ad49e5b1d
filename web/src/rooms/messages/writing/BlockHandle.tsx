import { ActionIcon, Menu } from "@mantine/core";
import { IconGripVertical, IconPlus } from "@tabler/icons-react";
import type { Editor } from "@tiptap/core";
import { NodeSelection } from "@tiptap/pm/state";
import { memo, type RefObject, useEffect, useState } from "react";
import { AddItems } from "./AddItems";
import classes from "./BlockHandle.module.css";
import { addBlock, blocksAround, doubleBlock, moveBlock, removeBlock, run } from "./commands";
import { EditorMenu } from "./EditorMenu";
import { blockAround, blockAt, repeatedAt } from "./places";
import type { Sharing } from "./ShareBlocks";

interface Pointed {
  from: number;
  to: number;
  top: number;
  bottom: number;
  left: number;
  words: string;
}

/** At the block that the mouse points at: a handle to drag it or do something with it, and a + below it. */
export const BlockHandle = memo(function BlockHandle({
  editor,
  paper,
  onShare,
  onComment,
}: {
  editor: Editor;
  paper: RefObject<HTMLDivElement | null>;
  /** Let the blocks there stand in other messages; undefined where they cannot. */
  onShare?: ((sharing: Sharing) => void) | undefined;
  /** Say something of the block with an id. */
  onComment?: ((id: string) => void) | undefined;
}) {
  const [pointed, setPointed] = useState<Pointed>();
  const [open, setOpen] = useState<"block" | "add">();
  useEffect(() => {
    const box = paper.current;
    if (!box || open) return;
    const move = (event: MouseEvent) => {
      // On the way to the handle or the + it stays what it is.
      if (event.target instanceof Element && event.target.closest("[data-of-block]")) return;
      const found = pointedAt(editor, box, event);
      if (found) setPointed(found);
    };
    const leave = () => setPointed(undefined);
    box.addEventListener("mousemove", move);
    box.addEventListener("mouseleave", leave);
    return () => {
      box.removeEventListener("mousemove", move);
      box.removeEventListener("mouseleave", leave);
    };
  }, [editor, paper, open]);
  useEffect(() => {
    // Where the words change it is somewhere else, and a menu of it would be of something else.
    const gone = () => {
      setPointed(undefined);
      setOpen(undefined);
    };
    editor.on("update", gone);
    return () => {
      editor.off("update", gone);
    };
  }, [editor]);
  // Once the menu has given the caret back to the words.
  const [commented, setCommented] = useState<string>();
  if (!pointed) return null;
  const { from, to, top, bottom, left, words } = pointed;
  function drag(event: React.DragEvent) {
    const { state, view } = editor;
    const selection = NodeSelection.create(state.doc, from);
    view.dispatch(state.tr.setSelection(selection));
    view.dragging = { slice: selection.content(), move: true };
    event.dataTransfer.effectAllowed = "move";
    event.dataTransfer.setData("text/plain", words);
  }
  return (
    <>
      <EditorMenu
        editor={editor}
        opened={open === "block"}
        onChange={(next) => setOpen(next ? "block" : undefined)}
        onExitTransitionEnd={() => {
          if (commented) onComment?.(commented);
          setCommented(undefined);
        }}
      >
        <Menu.Target>
          <ActionIcon
            className={classes.handle ?? ""}
            style={{ top, left }}
            variant="subtle"
            color="gray"
            size="sm"
            draggable
            data-of-block
            aria-label={`What to do with this block: ${words}`}
            onDragStart={drag}
          >
            <IconGripVertical size={15} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item rightSection={<kbd>Alt ↑</kbd>} onClick={() => run(editor, moveBlock(-1, from))}>
            Move up
          </Menu.Item>
          <Menu.Item rightSection={<kbd>Alt ↓</kbd>} onClick={() => run(editor, moveBlock(1, from))}>
            Move down
          </Menu.Item>
          <Menu.Item onClick={() => run(editor, doubleBlock(from))}>Put in once more</Menu.Item>
          {onComment && idAt(editor, from) && (
            <Menu.Item
              onClick={() => {
                setOpen(undefined);
                setCommented(idAt(editor, from));
              }}
            >
              Comment on it…
            </Menu.Item>
          )}
          {onShare && sharable(editor, from) && (
            <Menu.Item onClick={() => onShare(blocksAround(editor.state, from))}>
              Share with other messages…
            </Menu.Item>
          )}
          <Menu.Item color="red" onClick={() => run(editor, removeBlock(from))}>
            Remove
          </Menu.Item>
        </Menu.Dropdown>
      </EditorMenu>
      <div className={classes.below} data-of-block style={{ top: bottom }}>
        <EditorMenu
          editor={editor}
          opened={open === "add"}
          onChange={(next) => setOpen(next ? "add" : undefined)}
        >
          <Menu.Target>
            <ActionIcon variant="filled" size="xs" aria-label={`Add below: ${words}`}>
              <IconPlus size={12} />
            </ActionIcon>
          </Menu.Target>
          <Menu.Dropdown>
            <AddItems onAdd={(block) => run(editor, addBlock(block, to))} />
          </Menu.Dropdown>
        </EditorMenu>
      </div>
    </>
  );
});

/** The id of the block at a position; "" where nothing is written yet. */
function idAt(editor: Editor, from: number): string {
  const attrs = editor.state.doc.nodeAt(from)?.attrs;
  return String((attrs?.block as { id?: string } | null)?.id ?? attrs?.id ?? "");
}

/** A shared block holds no other, and what is repeated means nothing elsewhere. */
function sharable(editor: Editor, from: number): boolean {
  const { doc } = editor.state;
  return repeatedAt(doc.resolve(from)) === undefined && doc.nodeAt(from)?.type.name !== "shared";
}

function pointedAt(editor: Editor, box: HTMLElement, event: MouseEvent): Pointed | undefined {
  const sheet = editor.view.dom.getBoundingClientRect();
  const x = Math.max(sheet.left + 40, Math.min(event.clientX, sheet.right - 30));
  const found = editor.view.posAtCoords({ left: x, top: event.clientY });
  if (!found) return undefined;
  const { doc } = editor.state;
  const place =
    (found.inside >= 0 ? blockAt(doc, found.inside) : undefined) ?? blockAround(doc.resolve(found.pos));
  const dom = place && editor.view.nodeDOM(place.from);
  if (!(dom instanceof HTMLElement) || !place) return undefined;
  const frame = box.getBoundingClientRect();
  const seat = dom.getBoundingClientRect();
  return {
    from: place.from,
    to: place.to,
    top: seat.top - frame.top,
    bottom: seat.bottom - frame.top,
    left: Math.max(4, seat.left - frame.left - 26),
    words: place.node.textContent.slice(0, 30) || place.node.type.name,
  };
}
