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

export interface LensAsk {
  content: Content;
  criteria: string;
  audienceId: number | null;
  campaignId: number | null;
  topicId: number | null;
  senderId: number | null;
  contactId: number;
  step: number;
}

export const lensQuery = (ask: LensAsk) =>
  queryOptions({
    queryKey: ["lens", ask],
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/lens", {
          signal,
          body: {
            content: ask.content,
            criteria: ask.criteria,
            audience_id: ask.audienceId,
            campaign_id: ask.campaignId,
            topic_id: ask.topicId,
            sender_id: ask.senderId,
            contact_id: ask.contactId,
            step: ask.step,
          },
        }),
      ),
    placeholderData: keepPreviousData,
  });
