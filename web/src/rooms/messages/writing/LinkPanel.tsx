import { Button } from "@mantine/core";
import type { Editor } from "@tiptap/core";
import { type FormEvent, useState } from "react";
import { LineEditor } from "./LineEditor";
import classes from "./LinkPanel.module.css";
import { repeatedAt } from "./places";

/** Where the selected words lead. */
export function LinkPanel({ editor, onDone }: { editor: Editor; onDone: () => void }) {
  const [href, setHref] = useState(String(editor.getAttributes("link").href ?? "") || "https://");
  function put(event: FormEvent) {
    event.preventDefault();
    const link = href.trim();
    const chain = editor.chain().extendMarkRange("link");
    if (link && link !== "https://") chain.setMark("link", { href: link }).run();
    onDone();
    editor.commands.focus();
  }
  return (
    <form className={classes.panel} onSubmit={put}>
      <span>These words lead to</span>
      <LineEditor
        label="Address of the link"
        placeholder="https://…"
        code
        value={href}
        within={repeatedAt(editor.state.selection.$from)}
        onChange={setHref}
      />
      <div className={classes.acts}>
        <Button type="submit" variant="filled" size="compact-sm">
          Link them
        </Button>
        {editor.isActive("link") && (
          <Button
            size="compact-sm"
            onClick={() => {
              editor.chain().extendMarkRange("link").unsetMark("link").run();
              onDone();
            }}
          >
            No link
          </Button>
        )}
      </div>
    </form>
  );
}
