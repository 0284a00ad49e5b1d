import { useQuery } from "@tanstack/react-query";
import { wordsOf } from "../../api";
import { Clashes, Empty, Trouble } from "../../ui";
import { audiencesQuery, useAudienceDraft } from "../audiences";
import { Dispatch } from "../dispatch";
import { messageQuery, useMessageDraft } from "../messages";
import classes from "./CampaignPage.module.css";
import { PaceStop } from "./parts/PaceStop";
import { PaperStop } from "./parts/PaperStop";
import { ProofsStop } from "./parts/ProofsStop";
import { RehearseStop } from "./parts/RehearseStop";
import { ReleaseStop } from "./parts/ReleaseStop";
import { Stops } from "./parts/Stops";
import { WhoStop } from "./parts/WhoStop";
import { WordsStop } from "./parts/WordsStop";
import { type CampaignEditor, useCampaign } from "./useCampaign";

interface CampaignPageProps {
  id: number;
  stop: string | undefined;
  run: number | undefined;
  trace: number | undefined;
  rehearsal: number | undefined;
  onGo: (to: {
    stop?: string;
    run?: number;
    trace?: number | undefined;
    rehearsal?: number | undefined;
  }) => void;
}

/** The run sheet: one page from idea to result. */
export function CampaignPage(props: CampaignPageProps) {
  const { editor, error } = useCampaign(props.id);
  if (error && !editor) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!editor) return <Empty title="Opening the campaign …" />;
  return <Sheet {...props} editor={editor} />;
}

/** The stops share what is open: the campaign itself, its audience's conditions and its message's words. */
function Sheet({
  stop,
  run,
  trace,
  rehearsal,
  onGo,
  editor,
}: CampaignPageProps & { editor: CampaignEditor }) {
  const { campaign, change, standing } = editor;
  const { data: audiences } = useQuery(audiencesQuery);
  const audience = audiences?.find((one) => one.id === campaign.audience_id);
  const messageId = campaign.message_id ?? 0;
  const { data: message } = useQuery({ ...messageQuery(messageId), enabled: messageId > 0 });
  const who = useAudienceDraft(audience);
  const letter = useMessageDraft(message && message.id === messageId ? message : undefined);
  const latest = campaign.runs[0];
  const here = stop ?? (latest ? "dispatch" : "who");
  return (
    <div className={classes.sheet}>
      <Stops
        editor={editor}
        changed={{ who: who?.changed ?? false, words: letter?.changed ?? false }}
        here={here}
        onGo={(next) => onGo({ stop: next, trace: undefined, rehearsal: undefined })}
      />
      <div className={classes.rest}>
        {standing.kind === "clash" && (
          <div className={classes.clash}>
            <Clashes standing={standing} onDecide={editor.decide} />
          </div>
        )}
        {here === "who" && <WhoStop campaign={campaign} audience={audience} draft={who} onChange={change} />}
        {here === "words" && (
          <WordsStop campaign={campaign} message={message} draft={letter} onChange={change} />
        )}
        {here === "proofs" && <ProofsStop key={campaign.message_number} campaign={campaign} />}
        {here === "pace" && <PaceStop editor={editor} />}
        {here === "rehearse" && (
          <RehearseStop campaign={campaign} rehearsal={rehearsal} trace={trace} onGo={onGo} />
        )}
        {here === "release" && (
          <ReleaseStop
            editor={editor}
            drafts={{ audience: who, message: letter }}
            of={`${audience?.revision} ${message?.revision}`}
            onGo={(next) => onGo({ stop: next })}
            onReleased={(runId) => onGo({ stop: "dispatch", run: runId, trace: undefined })}
          />
        )}
        {here === "paper" && <PaperStop campaign={campaign} />}
        {here === "dispatch" && (
          <Dispatch
            runs={campaign.runs}
            run={run ?? latest?.id}
            trace={trace}
            onRun={(next) => onGo({ run: next, trace: undefined })}
            onTrace={(next) => onGo({ trace: next })}
          />
        )}
      </div>
    </div>
  );
}
