import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useEffect, useState } from "react";
import { client, type Schemas, take } from "../../api";
import { type Content, EMPTY } from "../../core/message";
import { messagesQuery } from "./queries";

interface Kept {
  number: number;
  name: string;
  content: Content;
}

/** A message being written: what is on screen survives a reload until it is saved. */
export function useDraft(saved: Schemas["MessageView"] | undefined) {
  const queries = useQueryClient();
  const place = `uvarovite message ${saved?.id ?? "new"}`;
  const number = saved?.number ?? 0;
  const [draft, setDraft] = useState<Kept>(
    () =>
      keptDraft(place, number) ?? {
        number,
        name: saved?.name ?? "",
        content: (saved?.content as Content) ?? EMPTY,
      },
  );
  const changed =
    draft.name !== (saved?.name ?? "") ||
    JSON.stringify(draft.content) !== JSON.stringify(saved?.content ?? EMPTY);
  useEffect(() => {
    if (changed) localStorage.setItem(place, JSON.stringify(draft));
    else localStorage.removeItem(place);
  }, [changed, draft, place]);
  const save = useMutation({
    mutationFn: () => {
      const body = { name: draft.name, content: draft.content, number: saved ? saved.number : null };
      return saved
        ? take(client.PUT("/api/messages/{message_id}", { params: { path: { message_id: saved.id } }, body }))
        : take(client.POST("/api/messages", { body }));
    },
    onSuccess: (view) => {
      localStorage.removeItem(place);
      queries.setQueryData([...messagesQuery.queryKey, view.id], view);
      queries.invalidateQueries({ queryKey: messagesQuery.queryKey, exact: true });
      queries.invalidateQueries({ queryKey: ["campaigns"] });
    },
  });
  return {
    name: draft.name,
    content: draft.content,
    changed,
    save,
    setName: (name: string) => setDraft((old) => ({ ...old, name })),
    setContent: (content: Content) => setDraft((old) => ({ ...old, content })),
    undo: () => {
      setDraft({ number, name: saved?.name ?? "", content: (saved?.content as Content) ?? EMPTY });
    },
  };
}

function keptDraft(place: string, number: number): Kept | undefined {
  try {
    const kept = JSON.parse(localStorage.getItem(place) ?? "null") as Kept | null;
    // Words that were kept beside an older version are not laid over a newer one.
    if (kept?.number !== number) return undefined;
    // A draft from before something could be said about a message says nothing about it.
    return { ...kept, content: { ...EMPTY, ...kept.content } };
  } catch {
    return undefined;
  }
}
