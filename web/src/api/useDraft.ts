/** An open draft of an audience or a message: one for a thing, however many editors of it are on a page. */
import { queryOptions, useQuery, useQueryClient } from "@tanstack/react-query";
import { useEffect, useMemo, useSyncExternalStore } from "react";
import { type Choice, type DraftState, type Kept, OpenDraft, type Parts, type Unkept } from "../core/drafts";
import type { components } from "../core/schema";
import { client, take } from "./client";
import { after, asked, keepOpen, mirrorAt } from "./keeping";
import { ApiProblem } from "./problems";
import { renew } from "./renew";
import { meQuery, useMay } from "./session";

type DraftKind = components["schemas"]["DraftKind"];
type Body = Record<string, unknown>;

export interface DraftOf<Doc> {
  kind: DraftKind;
  /** The thing; 0 is a new one. */
  id: number;
  saved: Kept<Doc>;
  parts: Parts<Doc>;
  /** A document from what was stored, also by an earlier version of the application. */
  read: (stored: Body) => Doc;
  /** Save it for everybody; gives how it stands then. `theirs` reads a conflict's answer. */
  save: (doc: Doc, revision: number) => Promise<Kept<Doc>>;
  theirs: (view: never) => Kept<Doc>;
}

export interface Draft<Doc> extends DraftState<Doc> {
  /** Who else is changing it now. */
  others: components["schemas"]["OpenDraft"][];
  /** The document now, also where nothing was drawn since it was edited. */
  current: () => Doc;
  edit: (doc: Doc) => void;
  save: () => Promise<boolean>;
  throwAway: () => Doc;
  decide: (key: string, choice: Choice) => void;
  flush: () => Promise<void>;
}

const draftQuery = (kind: DraftKind, id: number) =>
  queryOptions({
    queryKey: ["drafts", kind, id],
    queryFn: () =>
      take(client.GET("/api/drafts/{kind}/{object_id}", { params: { path: { kind, object_id: id } } })),
    // What was read once is the beginning of an editor; the next editor begins anew.
    gcTime: 0,
    refetchOnMount: "always",
  });

const NO_DRAFTS: components["schemas"]["DraftsView"] = { mine: null, others: [] };

const open = new Map<string, OpenDraft<unknown>>();

/** The draft of a thing, once it is known whether there is one; undefined before, and for nothing. */
export function useDraft<Doc>(of: DraftOf<Doc> | undefined): Draft<Doc> | undefined {
  const queries = useQueryClient();
  const { data: me } = useQuery(meQuery);
  const { kind, id } = of ?? { kind: "message" as const, id: 0 };
  const drafting = useMay()("write");
  const { data, isFetchedAfterMount } = useQuery({
    ...draftQuery(kind, id),
    enabled: of !== undefined && drafting,
  });
  // Whoever only looks has no draft.
  const found = drafting ? data : NO_DRAFTS;
  const ready =
    of !== undefined && me !== undefined && found !== undefined && (isFetchedAfterMount || !drafting);
  // biome-ignore lint/correctness/useExhaustiveDependencies: a draft begins once for each thing
  const draft = useMemo(() => {
    if (!ready) return undefined;
    const key = `${kind} ${id}`;
    const there = open.get(key) as OpenDraft<Doc> | undefined;
    if (there) return there;
    const path = { params: { path: { kind, object_id: id } } };
    const mirror = mirrorAt(me.email, kind, id);
    const readKept = (view: components["schemas"]["DraftView"]): Kept<Doc> => ({
      doc: of.read(view.body),
      revision: view.revision,
    });
    const put = (base: Kept<Doc>, body: Doc, seen: number) =>
      take(
        client.PUT("/api/drafts/{kind}/{object_id}", {
          ...path,
          body: { base: base.doc as Body, base_revision: base.revision, body: body as Body, seen },
        }),
      );
    const mine = found.mine;
    const written = readUnkept(mirror.read<Body>(), of.read);
    let wasOpen = mine !== null;
    const told = (isOpen: boolean) => {
      if (isOpen !== wasOpen) void renew(queries, "campaigns");
      wasOpen = isOpen;
    };
    return new OpenDraft<Doc>(
      of.saved,
      {
        parts: of.parts,
        after,
        now: Date.now,
        mirror: mirror.write,
        save: async (doc, revision) => {
          const kept = await asked(of.save(doc, revision), of.theirs);
          wasOpen = false;
          return kept;
        },
        keep: async ({ base, body, revision }) => {
          const view = await asked(
            put(base, body, revision).catch((fault: unknown) => {
              // Saved or thrown away in another tab: what is written here is a draft of its own.
              if (fault instanceof ApiProblem && fault.code === "gone") return put(base, body, 0);
              throw fault;
            }),
            readKept,
          );
          told(true);
          return view.revision;
        },
        forget: async () => {
          await asked(take(client.DELETE("/api/drafts/{kind}/{object_id}", path)), readKept);
          told(false);
        },
      },
      mine
        ? {
            base: { doc: of.read(mine.base), revision: mine.base_revision },
            body: of.read(mine.body),
            revision: mine.revision,
          }
        : undefined,
      written,
    );
  }, [ready, kind, id]);
  useEffect(() => {
    if (!draft) return;
    const key = `${kind} ${id}`;
    open.set(key, draft as OpenDraft<unknown>);
    const stop = keepOpen(() => draft.flush());
    return () => {
      stop();
      void draft.flush();
      if (open.get(key) === draft) open.delete(key);
    };
  }, [draft, kind, id]);
  const saved = of?.saved;
  // biome-ignore lint/correctness/useExhaustiveDependencies: a newer revision is heard of once
  useEffect(() => {
    if (saved) draft?.took(saved);
  }, [draft, saved?.revision]);
  const state = useSyncExternalStore(draft?.subscribe ?? nothing, draft?.snapshot ?? none<Doc>);
  return useMemo(() => {
    if (!draft || !state) return undefined;
    return {
      ...state,
      others: found?.others ?? [],
      current: () => draft.snapshot().doc,
      edit: (doc: Doc) => draft.edit(doc),
      save: () => draft.save(),
      throwAway: () => draft.throwAway(),
      decide: (key: string, choice: Choice) => draft.decide(key, choice),
      flush: () => draft.flush(),
    };
  }, [draft, state, found]);
}

const nothing = () => () => {};
const none = <Doc>(): DraftState<Doc> | undefined => undefined;

function readUnkept<Doc>(
  written: Unkept<Body> | undefined,
  read: (stored: Body) => Doc,
): Unkept<Doc> | undefined {
  if (!written) return undefined;
  const { base, kept, body } = written;
  return {
    base: { ...base, doc: read(base.doc) },
    kept: { ...kept, doc: read(kept.doc) },
    body: read(body),
  };
}
