import { keepPreviousData, queryOptions } from "@tanstack/react-query";
import { client, take } from "../../api";

export const audiencesQuery = queryOptions({
  queryKey: ["audiences"],
  queryFn: () => take(client.GET("/api/audiences")),
});

/** What is asked anew when an audience is another. */
export const ABOUT_AUDIENCES = ["audiences", "clearance", "campaigns", "lens person", "lens"];

/** Criteria, the audience whose hand-picked people belong to them (null: typed and not saved), and a topic. */
export interface Cleared {
  text: string;
  audienceId: number | null;
  topicId: number | null;
  /** The campaign that it is for; its own rules hold then. */
  campaignId?: number;
  /** Of letters on paper, for which other gates stand. */
  onPaper?: boolean;
}

const bodyOf = ({ text, audienceId, topicId, campaignId }: Cleared) => ({
  text,
  audience_id: audienceId,
  topic_id: topicId,
  campaign_id: campaignId ?? null,
});

export const clearanceQuery = (asked: Cleared) =>
  queryOptions({
    queryKey: ["clearance", asked],
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/clearance", {
          body: { ...bodyOf(asked), on_paper: asked.onPaper ?? false },
          signal,
        }),
      ),
    placeholderData: keepPreviousData,
  });

/** The people behind a gate; of no gate (null): who is cleared. */
export const heldQuery = (asked: Cleared, gate: string | null) =>
  queryOptions({
    queryKey: ["clearance", "people", asked, gate],
    queryFn: () =>
      take(
        client.POST("/api/clearance/people", {
          body: { ...bodyOf(asked), on_paper: asked.onPaper ?? false, gate, after_id: 0 },
        }),
      ),
  });

export const membersQuery = (audienceId: number) =>
  queryOptions({
    queryKey: ["audiences", "members", audienceId],
    queryFn: () =>
      take(
        client.GET("/api/audiences/{audience_id}/members", {
          params: { path: { audience_id: audienceId } },
        }),
      ),
  });

export const namesQuery = queryOptions({
  queryKey: ["criteria", "names"],
  queryFn: () => take(client.GET("/api/criteria/names")),
  staleTime: 30_000,
});

export const viewsQuery = queryOptions({
  queryKey: ["criteria", "views"],
  queryFn: () => take(client.GET("/api/criteria/views")),
  staleTime: 60_000,
});

export const sinceRunQuery = (audienceId: number) =>
  queryOptions({
    queryKey: ["audiences", "since-run", audienceId],
    queryFn: () =>
      take(
        client.GET("/api/audiences/{audience_id}/since-run", {
          params: { path: { audience_id: audienceId } },
        }),
      ),
  });

export const samplesQuery = (text: string, audienceId: number | null) =>
  queryOptions({
    queryKey: ["criteria", "samples", text, audienceId],
    queryFn: ({ signal }) =>
      take(client.POST("/api/criteria/samples", { body: { text, audience_id: audienceId }, signal })),
    placeholderData: keepPreviousData,
  });

export const withoutQuery = (asked: Cleared, gate: string) =>
  queryOptions({
    queryKey: ["clearance", "without", asked, gate],
    queryFn: () => take(client.POST("/api/clearance/without", { body: { ...bodyOf(asked), gate } })),
  });
