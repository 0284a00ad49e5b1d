import { useQueryClient } from "@tanstack/react-query";
import { useMemo } from "react";
import { client, type Draft, renew, type Schemas, take, useDraft } from "../../api";
import type { Kept } from "../../core/drafts";
import { EMPTY, MESSAGE_PARTS, type MessageDoc, readContent } from "../../core/message";
import { announce } from "../../ui";
import { messagesQuery } from "./queries";

const NEW: MessageDoc = { name: "", content: EMPTY };

const keptOf = (view: Schemas["MessageView"]): Kept<MessageDoc> => ({
  doc: { name: view.name, content: readContent(view.content) },
  revision: view.revision,
});

/** The open draft of a message, of a new one for null, of none for undefined. `onSaved` hears of each saving. */
export function useMessageDraft(
  message: Schemas["MessageView"] | null | undefined,
  onSaved?: (saved: Schemas["MessageView"]) => void,
): Draft<MessageDoc> | undefined {
  const queries = useQueryClient();
  const id = message?.id ?? 0;
  const of = useMemo(() => {
    if (message === undefined) return undefined;
    return {
      kind: "message" as const,
      id,
      saved: message ? keptOf(message) : { doc: NEW, revision: 0 },
      parts: MESSAGE_PARTS,
      read: (stored: Record<string, unknown>): MessageDoc => ({
        name: String(stored.name ?? ""),
        content: readContent(stored.content),
      }),
      theirs: keptOf,
      save: async ({ name, content }: MessageDoc, revision: number) => {
        const body = { name, content, revision: id ? revision : null };
        const saved = await (id
          ? take(client.PUT("/api/messages/{message_id}", { params: { path: { message_id: id } }, body }))
          : take(client.POST("/api/messages", { body })));
        await queries.cancelQueries({ queryKey: messagesQuery.queryKey });
        queries.setQueryData([...messagesQuery.queryKey, saved.id], saved);
        void renew(queries, { queryKey: messagesQuery.queryKey, exact: true }, "campaigns");
        announce(`“${saved.name}” is saved as version ${saved.number}.`);
        onSaved?.(saved);
        return keptOf(saved);
      },
    };
  }, [message, id, queries, onSaved]);
  return useDraft(of);
}
