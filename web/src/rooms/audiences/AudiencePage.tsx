import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useCallback, useState } from "react";
import {
  client,
  type Draft,
  May,
  MayChange,
  renew,
  type Schemas,
  take,
  useMay,
  useWords,
  vocabularyQuery,
  wordsOf,
} from "../../api";
import { same } from "../../core/drafts";
import { tooLong } from "../../core/words";
import { Clashes, DraftBar, Empty, OthersDrafts, Page, PageHead, Trouble } from "../../ui";
import classes from "./AudiencePage.module.css";
import { Clearance } from "./parts/Clearance";
import { CompareWith } from "./parts/CompareWith";
import { CriteriaEditor } from "./parts/CriteriaEditor";
import { CriteriaSamples } from "./parts/CriteriaSamples";
import { Frozen } from "./parts/Frozen";
import { HandPicked } from "./parts/HandPicked";
import { PartChooser } from "./parts/PartChooser";
import { SinceRun } from "./parts/SinceRun";
import { UsedIn } from "./parts/UsedIn";
import { audiencesQuery } from "./queries";
import { type AudienceDoc, useAudienceDraft, useDraftText } from "./useAudienceDraft";
import { useCriteria } from "./useCriteria";

/** One audience: its conditions, how many match, and who of them could be written to. */
export function AudiencePage({ id }: { id: string }) {
  const { data: audiences, error } = useQuery(audiencesQuery);
  const navigate = useNavigate();
  const fresh = id === "new";
  const audience = fresh ? null : audiences?.find((one) => String(one.id) === id);
  const onSaved = useCallback(
    (saved: Schemas["AudienceView"]) => {
      if (fresh) navigate({ to: "/audiences/$id", params: { id: String(saved.id) }, replace: true });
    },
    [fresh, navigate],
  );
  const draft = useAudienceDraft(audience, onSaved);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (audiences && audience === undefined) return <Trouble>This audience is not there any more.</Trouble>;
  if (!draft) return <Empty title="Opening the audience …" />;
  return <Editor audience={audience ?? undefined} draft={draft} />;
}

interface EditorProps {
  audience: Schemas["AudienceView"] | undefined;
  draft: Draft<AudienceDoc>;
}

function Editor({ audience, draft }: EditorProps) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const words = useWords();
  const may = useMay();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [topicId, setTopicId] = useState<number>();
  const { doc } = draft;
  const onText = useDraftText(draft);
  const criteria = useCriteria(doc.text, onText, audience?.id ?? null);
  const topic = vocabulary?.topics.find((one) => one.id === topicId) ?? vocabulary?.topics[0];
  const remove = useMutation({
    mutationFn: () =>
      take(
        client.DELETE("/api/audiences/{audience_id}", {
          params: { path: { audience_id: audience?.id ?? 0 } },
        }),
      ),
    onSuccess: () => {
      void renew(queries, { queryKey: audiencesQuery.queryKey });
      navigate({ to: "/audiences" });
    },
  });
  const readable = criteria.settled && criteria.view?.problem === null;
  const fault = draft.fault ?? (remove.error ? wordsOf(remove.error) : undefined);
  const otherPart = !same(doc.part, audience?.part ?? null);
  return (
    <Page gap={14}>
      <PageHead
        title={
          <TextInput
            aria-label="Name of the audience"
            placeholder="Name of the audience"
            classNames={{ input: classes.name }}
            value={doc.name}
            error={tooLong(doc.name, 200)}
            readOnly={!may("write")}
            autoFocus={!audience}
            onChange={(event) => draft.edit({ ...doc, name: event.currentTarget.value })}
          />
        }
        about={audience && <UsedIn used={audience.used_in} />}
      >
        {may("write") && audience && audience.used_in.length === 0 && (
          <Button loading={remove.isPending} onClick={() => remove.mutate()}>
            Remove
          </Button>
        )}
        <May be="write">
          <DraftBar
            draft={draft}
            able={readable && doc.name.trim() !== ""}
            fresh={!audience}
            time={words.time}
          />
        </May>
      </PageHead>
      {fault && <Trouble>{fault}</Trouble>}
      <Clashes standing={draft.standing} onDecide={draft.decide} />
      <OthersDrafts others={draft.others} what="this audience" moment={words.moment} />
      <MayChange be="write">
        <CriteriaEditor criteria={criteria} />
      </MayChange>
      {criteria.view?.problem === null && (
        <CriteriaSamples text={criteria.view.text} audienceId={audience?.id ?? null} />
      )}
      <MayChange be="write">
        <PartChooser part={doc.part} onPart={(part) => draft.edit({ ...doc, part })} />
        {audience && <Frozen audience={audience} changed={draft.changed} />}
      </MayChange>
      {audience && <SinceRun audienceId={audience.id} />}
      {audience && (
        <MayChange be="write">
          <HandPicked audienceId={audience.id} />
        </MayChange>
      )}
      {audience && <CompareWith audienceId={audience.id} />}
      {vocabulary && (
        <NativeSelect
          className={classes.topic}
          size="xs"
          label="Clearance for a message about"
          value={topic?.id ?? ""}
          data={vocabulary.topics.map((one) => ({ value: String(one.id), label: one.name }))}
          onChange={(event) => setTopicId(Number(event.currentTarget.value))}
        />
      )}
      {otherPart && (
        <Trouble tone="held">
          The part that you chose counts when it is saved; what follows is of{" "}
          {audience?.part_words ?? "everybody who matches"}.
        </Trouble>
      )}
      {criteria.view && criteria.view.problem === null && topic && (
        <Clearance
          asked={{ text: criteria.view.text, audienceId: audience?.id ?? null, topicId: topic.id }}
          topic={topic.name}
          name={`a message about ${topic.name}`}
        />
      )}
    </Page>
  );
}
