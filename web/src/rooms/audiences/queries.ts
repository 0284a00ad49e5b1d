import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const audiencesQuery = queryOptions({
  queryKey: ["audiences"],
  queryFn: () => take(client.GET("/api/audiences")),
});

export const clearanceQuery = (text: string, topicId: number | null) =>
  queryOptions({
    queryKey: ["clearance", text, topicId],
    queryFn: () => take(client.POST("/api/clearance", { body: { text, topic_id: topicId } })),
    placeholderData: keepPreviousData,
  });

export const heldQuery = (text: string, topicId: number | null, gate: string) =>
  queryOptions({
    queryKey: ["clearance", "people", text, topicId, gate],
    queryFn: () =>
      take(client.POST("/api/clearance/people", { body: { text, topic_id: topicId, gate, after_id: 0 } })),
  });
