import { ActionIcon, Button, Menu, Popover } from "@mantine/core";
import {
  IconArrowBackUp,
  IconArrowForwardUp,
  IconDots,
  IconList,
  IconListNumbers,
} from "@tabler/icons-react";
import type { Editor } from "@tiptap/core";
import { useEditorState } from "@tiptap/react";
import { memo, useState } from "react";
import { variableFor } from "../../../core/writing";
import { AddItems } from "./AddItems";
import {
  addBlock,
  blocksForEach,
  blocksOnly,
  type Command,
  run,
  someWordsOnly,
  toggleList,
  turnInto,
  wordsSelected,
} from "./commands";
import { useWriting } from "./context";
import { EditorMenu } from "./EditorMenu";
import { LinkPanel } from "./LinkPanel";
import { blockHere } from "./places";
import classes from "./Tools.module.css";

interface ToolsProps {
  /** The editor of the blocks. */
  editor: Editor;
  /** The one that has the caret, or had it last: a field goes there. */
  active: Editor | undefined;
  canUndo: boolean;
  canRedo: boolean;
  onUndo: () => void;
  onRedo: () => void;
  onAsText: (asText: boolean) => void;
  onFind: () => void;
  /** See earlier versions; undefined while there is none. */
  onVersions?: (() => void) | undefined;
  /** The message by number, once it is saved. */
  saved?: number | undefined;
}

/** What can be done with the words where the caret is. */
export const Tools = memo(function Tools({
  editor,
  active,
  canUndo,
  canRedo,
  onUndo,
  onRedo,
  onAsText,
  onFind,
  onVersions,
  saved,
}: ToolsProps) {
  const { vocabulary, asText } = useWriting();
  const [linking, setLinking] = useState(false);
  const now = useEditorState({
    editor,
    selector: ({ editor: here }) => {
      const block = blockHere(here.state)?.node;
      return {
        bold: here.isActive("bold"),
        italic: here.isActive("italic"),
        link: here.isActive("link"),
        colour: String(here.getAttributes("colour").colour ?? ""),
        kind: block?.type.name ?? "",
        level: Number(block?.attrs.level ?? 0),
        centred: block?.attrs.align === "centre",
        canLink: wordsSelected(here.state) || here.isActive("link"),
        canMark: here.can().toggleMark("bold"),
        canList: toggleList(false)(here.state),
      };
    },
  });
  const act = (command: Command) => () => void run(editor, command);
  const lists = vocabulary.fields.filter((one) => one.type === "list");
  const kinds = {
    paragraph: "Text",
    heading: ["Heading", "Heading", "Small heading", "Smallest heading"][now.level] ?? "Heading",
    list: "List",
  };
  const kind = kinds[now.kind as keyof typeof kinds] ?? "Text";
  return (
    <div className={classes.tools} role="toolbar" aria-label="Words">
      <ActionIcon variant="default" aria-label="Undo (Ctrl Z)" disabled={!canUndo} onClick={onUndo}>
        <IconArrowBackUp size={16} />
      </ActionIcon>
      <ActionIcon variant="default" aria-label="Redo (Ctrl Shift Z)" disabled={!canRedo} onClick={onRedo}>
        <IconArrowForwardUp size={16} />
      </ActionIcon>
      <i className={classes.gap} />
      <EditorMenu editor={editor}>
        <Menu.Target>
          <Button disabled={!now.canList} aria-label={`Kind of words: ${kind}`}>
            {kind} ▾
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={act(turnInto("paragraph"))}>Text</Menu.Item>
          <Menu.Item onClick={act(turnInto("paragraph", { align: "centre" }))}>Text in the middle</Menu.Item>
          <Menu.Item onClick={act(turnInto("heading", { level: 1 }))}>Heading</Menu.Item>
          <Menu.Item onClick={act(turnInto("heading", { level: 2 }))}>Small heading</Menu.Item>
          <Menu.Item onClick={act(turnInto("heading", { level: 3 }))}>Smallest heading</Menu.Item>
          <Menu.Item leftSection={<IconList size={15} />} onClick={act(toggleList(false))}>
            List with dots
          </Menu.Item>
          <Menu.Item leftSection={<IconListNumbers size={15} />} onClick={act(toggleList(true))}>
            List with numbers
          </Menu.Item>
          <Menu.Divider />
          <Menu.Item
            disabled={!now.canMark}
            onClick={() => editor.chain().focus().setMark("colour", { colour: "accent" }).run()}
          >
            In the colour of links
          </Menu.Item>
          <Menu.Item
            disabled={!now.canMark}
            onClick={() => editor.chain().focus().setMark("colour", { colour: "quiet" }).run()}
          >
            In a quiet colour
          </Menu.Item>
          {now.colour && (
            <Menu.Item onClick={() => editor.chain().focus().unsetMark("colour").run()}>
              In no colour
            </Menu.Item>
          )}
        </Menu.Dropdown>
      </EditorMenu>
      <ActionIcon
        variant={now.bold ? "light" : "default"}
        aria-label="Bold (Ctrl B)"
        aria-pressed={now.bold}
        disabled={!now.canMark}
        onClick={() => editor.chain().focus().toggleMark("bold").run()}
      >
        <b>B</b>
      </ActionIcon>
      <ActionIcon
        variant={now.italic ? "light" : "default"}
        aria-label="Italic (Ctrl I)"
        aria-pressed={now.italic}
        disabled={!now.canMark}
        onClick={() => editor.chain().focus().toggleMark("italic").run()}
      >
        <i className={classes.italic}>I</i>
      </ActionIcon>
      <Popover opened={linking} onChange={setLinking} width={420} shadow="md" trapFocus returnFocus>
        <Popover.Target>
          <Button
            variant={now.link ? "light" : "default"}
            disabled={!now.canLink}
            onClick={() => setLinking(!linking)}
          >
            Link
          </Button>
        </Popover.Target>
        <Popover.Dropdown>
          <LinkPanel editor={editor} onDone={() => setLinking(false)} />
        </Popover.Dropdown>
      </Popover>
      <i className={classes.gap} />
      <Button
        variant="light"
        onClick={() => {
          const into = active && !active.isDestroyed ? active : editor;
          into
            .chain()
            .focus()
            .insertContent(needsGap(into) ? " @" : "@")
            .run();
        }}
      >
        Field <kbd className={classes.key}>@</kbd>
      </Button>
      <Button
        onClick={act(wordsSelected(editor.state) ? someWordsOnly(firstChoice(vocabulary)) : blocksOnly(""))}
      >
        Only for…
      </Button>
      {lists.length > 0 && (
        <EditorMenu editor={editor}>
          <Menu.Target>
            <Button>For each…</Button>
          </Menu.Target>
          <Menu.Dropdown>
            <Menu.Label>Repeat these blocks for each of their</Menu.Label>
            {lists.map((one) => (
              <Menu.Item
                key={one.key}
                onClick={act(blocksForEach(variableFor(one.key, vocabulary.fields), one.key))}
              >
                {one.label}
              </Menu.Item>
            ))}
          </Menu.Dropdown>
        </EditorMenu>
      )}
      <EditorMenu editor={editor}>
        <Menu.Target>
          <Button aria-label="Add below">Add…</Button>
        </Menu.Target>
        <Menu.Dropdown>
          <AddItems onAdd={(block) => run(editor, addBlock(block))} />
        </Menu.Dropdown>
      </EditorMenu>
      <EditorMenu editor={editor}>
        <Menu.Target>
          <ActionIcon variant="default" aria-label="More">
            <IconDots size={16} />
          </ActionIcon>
        </Menu.Target>
        <Menu.Dropdown>
          <Menu.Item onClick={() => onAsText(!asText)}>Show inlays as {asText ? "chips" : "text"}</Menu.Item>
          <Menu.Item onClick={onFind}>Find and replace</Menu.Item>
          {onVersions && <Menu.Item onClick={onVersions}>Versions</Menu.Item>}
          {saved !== undefined && (
            <Menu.Item component="a" href={`/api/messages/${saved}/file`} download>
              Save the saved version as a file
            </Menu.Item>
          )}
        </Menu.Dropdown>
      </EditorMenu>
    </div>
  );
});

/** Behind a word an @ would be that of an address. */
function needsGap(editor: Editor): boolean {
  const { $from } = editor.state.selection;
  return /[\p{L}\p{N}._%+@-]$/u.test($from.parent.textBetween(0, $from.parentOffset, " ", " ").slice(-1));
}

/** Words of a condition that stand there until it is chosen. */
function firstChoice(vocabulary: ReturnType<typeof useWriting>["vocabulary"]): string {
  const yes = vocabulary.fields.find((one) => one.type === "yes_no");
  const choice = vocabulary.fields.find((one) => one.type === "choice" && one.choices.length > 0);
  if (choice) return `${choice.key} is "${choice.choices[0]}"`;
  return yes?.key ?? "everyone";
}
