import { Button, NativeSelect, TextInput } from "@mantine/core";
import { useHotkeys } from "@mantine/hooks";
import { notifications } from "@mantine/notifications";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useNavigate } from "@tanstack/react-router";
import { useState } from "react";
import { client, type Schemas, take, vocabularyQuery, wordsOf } from "../../api";
import { PageHead, Trouble } from "../../ui";
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
import { useCriteria } from "./useCriteria";

/** One audience: its conditions, how many match, and who of them could be written to. */
export function AudiencePage({ id }: { id: string }) {
  const { data: audiences, error } = useQuery(audiencesQuery);
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!audiences) return null;
  const audience = audiences.find((one) => String(one.id) === id);
  if (id !== "new" && !audience) return <Trouble>This audience is not there any more.</Trouble>;
  return <Editor key={audience?.revision ?? "new"} audience={audience} />;
}

function Editor({ audience }: { audience: Schemas["AudienceView"] | undefined }) {
  const queries = useQueryClient();
  const navigate = useNavigate();
  const { data: vocabulary } = useQuery(vocabularyQuery);
  const [name, setName] = useState(audience?.name ?? "");
  const [topicId, setTopicId] = useState<number>();
  const criteria = useCriteria(audience?.text ?? "everyone", audience?.id ?? null);
  const topic = vocabulary?.topics.find((one) => one.id === topicId) ?? vocabulary?.topics[0];
  const save = useMutation({
    mutationFn: () => {
      const body = { name, text: criteria.text, revision: audience?.revision ?? null };
      return audience
        ? take(
            client.PUT("/api/audiences/{audience_id}", {
              params: { path: { audience_id: audience.id } },
              body,
            }),
          )
        : take(client.POST("/api/audiences", { body }));
    },
    onSuccess: async (saved) => {
      await queries.invalidateQueries({ queryKey: audiencesQuery.queryKey });
      queries.invalidateQueries({ queryKey: ["campaigns"] });
      notifications.show({ message: `“${saved.name}” is saved.` });
      navigate({ to: "/audiences/$id", params: { id: String(saved.id) } });
    },
  });
  const remove = useMutation({
    mutationFn: () =>
      take(
        client.DELETE("/api/audiences/{audience_id}", {
          params: { path: { audience_id: audience?.id ?? 0 } },
        }),
      ),
    onSuccess: () => {
      queries.invalidateQueries({ queryKey: audiencesQuery.queryKey });
      navigate({ to: "/audiences" });
    },
  });
  const readable = criteria.settled && criteria.view?.problem === null;
  const changed = !audience || name !== audience.name || criteria.text !== audience.text;
  const able = readable && changed && name.trim() !== "";
  useHotkeys([["mod+S", () => able && save.mutate()]], []);
  return (
    <div className={classes.page}>
      <PageHead
        title={
          <TextInput
            aria-label="Name of the audience"
            placeholder="Name of the audience"
            classNames={{ input: classes.name }}
            value={name}
            autoFocus={!audience}
            onChange={(event) => setName(event.currentTarget.value)}
          />
        }
        about={audience && <UsedIn used={audience.used_in} />}
      >
        {audience && audience.used_in.length === 0 && <Button onClick={() => remove.mutate()}>Remove</Button>}
        <Button variant="filled" disabled={!able} loading={save.isPending} onClick={() => save.mutate()}>
          Save
        </Button>
      </PageHead>
      {(save.error ?? remove.error) && <Trouble>{wordsOf(save.error ?? remove.error)}</Trouble>}
      <CriteriaEditor criteria={criteria} />
      {criteria.view?.problem === null && (
        <CriteriaSamples text={criteria.view.text} audienceId={audience?.id ?? null} />
      )}
      {audience && <PartChooser audience={audience} />}
      {audience && <Frozen audience={audience} />}
      {audience && <SinceRun audienceId={audience.id} />}
      {audience && <HandPicked audienceId={audience.id} />}
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
      {criteria.view && criteria.view.problem === null && topic && (
        <Clearance
          asked={{ text: criteria.view.text, audienceId: audience?.id ?? null, topicId: topic.id }}
          topic={topic.name}
          name={`a message about ${topic.name}`}
        />
      )}
    </div>
  );
}
