import { Button, Group, Modal, TextInput } from "@mantine/core";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import type { Editor } from "@tiptap/core";
import { useState } from "react";
import { client, renew, take, wordsOf } from "../../../api";
import type { Block } from "../../../core/content";
import { EMPTY, someId } from "../../../core/message";
import { sharedBlock } from "../../../core/sharedBlocks";
import { tooLong } from "../../../core/words";
import { sayBlock, sayPlainly } from "../../../core/writing";
import { announce, Trouble } from "../../../ui";
import { messagesQuery } from "../queries";
import { replaceBlocks, run } from "./commands";
import { useWriting } from "./context";

export interface Sharing {
  from: number;
  to: number;
  blocks: Block[];
}

interface ShareBlocksProps {
  editor: Editor;
  sharing: Sharing;
  onClose: () => void;
}

/** Blocks of this message become a shared block, which stands here and can stand in other messages. */
export function ShareBlocks({ editor, sharing, onClose }: ShareBlocksProps) {
  const queries = useQueryClient();
  const { language } = useWriting();
  const [name, setName] = useState(() => firstWords(sharing.blocks));
  const share = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/messages", {
          body: {
            name,
            shared: true,
            content: { ...EMPTY, language, subject: name.trim(), blocks: sharing.blocks },
          },
        }),
      ),
    onSuccess: (made) => {
      void renew(queries, { queryKey: messagesQuery.queryKey, exact: true });
      const put = run(editor, replaceBlocks(sharing, sharedBlock(someId(), made, language)));
      announce(
        put
          ? `“${made.name}” can stand in other messages now. Save this one to keep it here.`
          : `“${made.name}” is shared. The words here changed meanwhile; put it in with “Add…”.`,
      );
      onClose();
    },
  });
  return (
    <Modal
      opened
      onClose={onClose}
      closeButtonProps={{ "aria-label": "Close" }}
      title={<b>Share with other messages</b>}
    >
      <form
        onSubmit={(event) => {
          event.preventDefault();
          if (!share.isPending) share.mutate();
        }}
      >
        <TextInput
          label="What it is called"
          description="It stands in every message that you add it to, and is changed in one place."
          value={name}
          error={tooLong(name, 200)}
          data-autofocus
          onChange={(event) => setName(event.currentTarget.value)}
        />
        {share.error && <Trouble>{wordsOf(share.error)}</Trouble>}
        <Group mt="md" justify="flex-end">
          <Button onClick={onClose}>Cancel</Button>
          <Button type="submit" variant="filled" disabled={name.trim() === ""} loading={share.isPending}>
            Share
          </Button>
        </Group>
      </form>
    </Modal>
  );
}

/** Its first line, as the name that is offered. */
function firstWords(blocks: Block[]): string {
  const [line = ""] = blocks.map(sayBlock).join("\n").trim().split("\n");
  return sayPlainly(line).slice(0, 40).trim();
}
