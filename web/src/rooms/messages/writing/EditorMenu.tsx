import { Menu, type MenuProps } from "@mantine/core";
import type { Editor } from "@tiptap/core";

/** A menu of the editor: when it closes, one writes on. */
export function EditorMenu({ editor, onClose, ...rest }: MenuProps & { editor: Editor }) {
  return (
    <Menu
      shadow="md"
      returnFocus={false}
      onClose={() => {
        onClose?.();
        editor.view.focus();
      }}
      {...rest}
    />
  );
}
