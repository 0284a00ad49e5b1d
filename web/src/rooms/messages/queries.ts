import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";
import type { Content } from "../../core/message";

export const messagesQuery = queryOptions({
  queryKey: ["messages"],
  queryFn: () => take(client.GET("/api/messages")),
});

export const messageQuery = (id: number) =>
  queryOptions({
    queryKey: ["messages", id],
    queryFn: () => take(client.GET("/api/messages/{message_id}", { params: { path: { message_id: id } } })),
  });

/** A version as a picture of itself; the same version always looks the same. */
export const pictureQuery = (id: number, number: number) =>
  queryOptions({
    queryKey: ["message picture", id, number],
    queryFn: () =>
      take(client.GET("/api/messages/{message_id}/picture", { params: { path: { message_id: id } } })),
    staleTime: 300_000,
  });

export const commentsQuery = (messageId: number) =>
  queryOptions({
    queryKey: ["comments", messageId],
    queryFn: () =>
      take(
        client.GET("/api/messages/{message_id}/comments", { params: { path: { message_id: messageId } } }),
      ),
  });

/** Whom tests can go to by name. */
export const testReadersQuery = queryOptions({
  queryKey: ["test readers"],
  queryFn: () => take(client.GET("/api/test-lists")),
});

export const attachmentsQuery = queryOptions({
  queryKey: ["attachments"],
  queryFn: () => take(client.GET("/api/attachments")),
});

export const picturesQuery = queryOptions({
  queryKey: ["pictures"],
  queryFn: () => take(client.GET("/api/pictures")),
});

export const versionsQuery = (id: number, latest: number) =>
  queryOptions({
    queryKey: ["message versions", id, latest],
    queryFn: () =>
      take(client.GET("/api/messages/{message_id}/versions", { params: { path: { message_id: id } } })),
  });

export const versionQuery = (id: number, number: number) =>
  queryOptions({
    queryKey: ["message version", id, number],
    queryFn: () =>
      take(
        client.GET("/api/messages/{message_id}/versions/{number}", {
          params: { path: { message_id: id, number } },
        }),
      ),
    staleTime: Number.POSITIVE_INFINITY,
  });

export interface LensAsk {
  content: Content;
  criteria: string;
  audienceId: number | null;
  campaignId: number | null;
  topicId: number | null;
  contactId: number;
  step: number;
  /** Only those who read a fallback. */
  fallbacks?: boolean;
}

const numbers = new WeakMap<Content, number>();
let last = 0;

/** Words by a number: they are asked for at every keystroke, and long to compare. */
function numberOf(content: Content): number {
  const known = numbers.get(content) ?? ++last;
  numbers.set(content, known);
  return known;
}

/** Who is looked at. It depends on everybody, and on no word: it is not asked anew at a keystroke. */
export const lensPersonQuery = ({ content, ...ask }: LensAsk) =>
  queryOptions({
    queryKey: ["lens person", { ...ask, gates: ask.fallbacks ? numberOf(content) : gatesOf(content) }],
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/lens/person", {
          signal,
          body: {
            content,
            criteria: ask.criteria,
            audience_id: ask.audienceId,
            campaign_id: ask.campaignId,
            topic_id: ask.topicId,
            contact_id: ask.contactId,
            step: ask.step,
            fallbacks: ask.fallbacks ?? false,
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** What a message asks of those who get it: the fields, and files of their own. */
function gatesOf({ needed, attachments, others }: Content) {
  const files = attachments.filter((one) => one.kind === "own" && one.needed);
  return [needed, files, files.length > 0 ? others.map((one) => one.language) : []];
}

export const lensQuery = (ask: LetterAsk) =>
  queryOptions({
    queryKey: ["lens", { ...ask, content: numberOf(ask.content) }],
    queryFn: ({ signal }) => take(client.POST("/api/lens", { signal, body: letterBody(ask) })),
    placeholderData: keepPreviousData,
  });

/** What one person's letter is made of. */
export interface LetterAsk {
  content: Content;
  contactId: number;
  topicId: number | null;
  senderId: number | null;
}

export const letterBody = (ask: LetterAsk) => ({
  content: ask.content,
  contact_id: ask.contactId,
  topic_id: ask.topicId,
  sender_id: ask.senderId,
});

export const sourceQuery = (ask: LetterAsk) =>
  queryOptions({
    queryKey: ["letter source", { ...ask, content: numberOf(ask.content) }],
    queryFn: ({ signal }) => take(client.POST("/api/lens/source", { signal, body: letterBody(ask) })),
    placeholderData: keepPreviousData,
  });
