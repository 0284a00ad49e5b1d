import { useQueryClient } from "@tanstack/react-query";
import { useCallback, useMemo, useRef } from "react";
import { client, type Draft, renew, type Schemas, take, useDraft } from "../../api";
import { fixedParts, type Kept, member } from "../../core/drafts";
import { type AudiencePart, sayPart } from "../../core/parts";
import { announce } from "../../ui";
import { ABOUT_AUDIENCES, audiencesQuery } from "./queries";

/** An audience as it is edited and saved. */
export interface AudienceDoc {
  name: string;
  /** The criteria line, with or without a fault. */
  text: string;
  part: AudiencePart | null;
}

const NEW: AudienceDoc = { name: "", text: "everyone", part: null };

const PARTS = fixedParts<AudienceDoc>([
  member("name", "Name of the audience"),
  member("text", "Conditions", String, (mine, theirs) => `(${mine}) and (${theirs})`),
  member("part", "Which part of them", (part) => (part ? sayPart(part) : "everybody who matches")),
]);

const docOf = ({ name, text, part }: Schemas["AudienceView"]): AudienceDoc => ({
  name,
  text,
  part: part ?? null,
});
const keptOf = (view: Schemas["AudienceView"]): Kept<AudienceDoc> => ({
  doc: docOf(view),
  revision: view.revision,
});

/** The open draft of an audience, of a new one for null, of none for undefined. `onSaved` hears of each saving. */
export function useAudienceDraft(
  audience: Schemas["AudienceView"] | null | undefined,
  onSaved?: (saved: Schemas["AudienceView"]) => void,
): Draft<AudienceDoc> | undefined {
  const queries = useQueryClient();
  const id = audience?.id ?? 0;
  const of = useMemo(() => {
    if (audience === undefined) return undefined;
    return {
      kind: "audience" as const,
      id,
      saved: audience ? keptOf(audience) : { doc: NEW, revision: 0 },
      parts: PARTS,
      read: (stored: Record<string, unknown>) => ({ ...NEW, ...stored }) as AudienceDoc,
      theirs: keptOf,
      save: async (doc: AudienceDoc, revision: number) => {
        const body = {
          name: doc.name,
          text: doc.text,
          part: doc.part,
          revision: id ? revision : null,
        };
        const saved = await (id
          ? take(client.PUT("/api/audiences/{audience_id}", { params: { path: { audience_id: id } }, body }))
          : take(client.POST("/api/audiences", { body })));
        await queries.cancelQueries({ queryKey: audiencesQuery.queryKey });
        queries.setQueryData(
          audiencesQuery.queryKey,
          (old: Schemas["AudienceView"][] | undefined) =>
            old && [...old.filter((one) => one.id !== saved.id), saved],
        );
        void renew(queries, ...ABOUT_AUDIENCES);
        announce(`“${saved.name}” is saved.`);
        onSaved?.(saved);
        return keptOf(saved);
      },
    };
  }, [audience, id, queries, onSaved]);
  return useDraft(of);
}

/** Change the conditions in a draft, whatever else was changed in it since this was made. */
export function useDraftText(draft: Draft<AudienceDoc> | undefined): (text: string) => void {
  const latest = useRef(draft);
  latest.current = draft;
  return useCallback((text: string) => {
    const now = latest.current;
    if (now) now.edit({ ...now.current(), text });
  }, []);
}
