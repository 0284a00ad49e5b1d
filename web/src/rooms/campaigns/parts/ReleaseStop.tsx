import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { type Draft, May, useMay, useWords, wordsOf } from "../../../api";
import type { MessageDoc } from "../../../core/message";
import { count, people } from "../../../core/words";
import { Diamond, PageHead, Trouble } from "../../../ui";
import type { AudienceDoc } from "../../audiences";
import { previewQuery } from "../queries";
import type { CampaignEditor } from "../useCampaign";
import { Checks } from "./Checks";
import { PlanRelease } from "./PlanRelease";
import { ReleaseSheet } from "./ReleaseSheet";
import releaseClasses from "./ReleaseStop.module.css";
import classes from "./StopSheet.module.css";
import { TestedWords } from "./TestedWords";
import { UnsavedChecks } from "./UnsavedChecks";

interface ReleaseStopProps {
  editor: CampaignEditor;
  drafts: { audience: Draft<AudienceDoc> | undefined; message: Draft<MessageDoc> | undefined };
  /** The revisions of the audience and of the message that are saved. */
  of: string;
  onGo: (stop: string) => void;
  onReleased: (runId: number) => void;
}

/** One sentence that one can read aloud, what stands in the way, and a button that says what it does. */
export function ReleaseStop({ editor, drafts, of, onGo, onReleased }: ReleaseStopProps) {
  const words = useWords();
  const may = useMay();
  const { campaign, saved } = editor;
  const [asking, setAsking] = useState(false);
  // The sentence, the number and the people are taken anew when one comes here, so that what changes can be named.
  const { data: fresh, error: unseen } = useQuery(
    previewQuery(campaign.id, `${campaign.revision} ${of}`, { keep: may("write") }),
  );
  const now = fresh ?? campaign;
  const cleared = now.clearance?.cleared ?? 0;
  // One's own open work is told as it stands on screen, not as the server heard of it last.
  const checks = now.checks.filter(
    (check) => check.code !== "draft_audience" && check.code !== "draft_message",
  );
  const unsaved = [drafts.audience, drafts.message].some((draft) => draft?.changed);
  const blocking = checks.filter((check) => check.blocking);
  const running = blocking.some((check) => check.code === "running");
  const clear = blocking.length === 0 && !unsaved && saved;
  return (
    <div className={`${classes.middle} ${releaseClasses.release}`}>
      <PageHead title="Release" />
      <blockquote className={releaseClasses.summary}>
        {now.summary}
        {now.content && (
          <>
            {" "}
            The subject is “<span className={releaseClasses.subject}>{now.content.subject}</span>”, version{" "}
            {now.message_number} of {now.message}.
          </>
        )}
        {now.forecast?.end &&
          clear &&
          ` It begins ${now.planned ? words.moment(now.forecast.start) : "at once"} and ends about ${words.moment(now.forecast.end)}.`}
      </blockquote>
      <TestedWords tests={now.tests} version={now.message_number} />
      <section className={releaseClasses.checks} aria-label="Checks">
        {fresh && clear && (
          <div>
            <Diamond state="done" /> <span>Nothing stands in the way.</span>
          </div>
        )}
        {!saved && (
          <div data-blocking>
            <Diamond state="attention" />
            <span>
              What you changed on the campaign is not saved yet; the mark at the left says how it stands.
            </span>
          </div>
        )}
        <UnsavedChecks drafts={drafts} onGo={onGo} />
        <Checks campaignId={campaign.id} checks={checks} onGo={onGo} />
      </section>
      {unseen && <Trouble>{wordsOf(unseen)}</Trouble>}
      <May be="release">
        <Button
          size="md"
          variant="filled"
          style={{ justifySelf: "start" }}
          disabled={!clear || !fresh}
          onClick={() => setAsking(true)}
        >
          {running ? "On its way" : `Release to ${people(cleared)}${now.planned ? " now" : ""} …`}
        </Button>
      </May>
      {!may("release") && (
        <Trouble tone="held">Releasing takes the role Releaser: ask somebody here who has it.</Trouble>
      )}
      {may("release") && (
        <p className="soft">
          You are asked once more before anything leaves. The clearance of {count(cleared)} is taken again at
          that moment. You can pause or stop in Dispatch; what has gone out cannot be called back.
        </p>
      )}
      <May be="export">
        {cleared > 0 && (
          <p className="soft">
            <a href={`/api/campaigns/${campaign.id}/dry-run.mbox`} download>
              Save what would go
            </a>{" "}
            to {cleared > 1000 ? "the first thousand" : "everybody"} as a file for a mail program (mbox).
            Nothing is sent by that.
          </p>
        )}
      </May>
      {!running && <PlanRelease campaign={now} clear={clear && fresh !== undefined} />}
      {asking && fresh && clear && (
        <ReleaseSheet campaign={fresh} onClose={() => setAsking(false)} onReleased={onReleased} />
      )}
    </div>
  );
}
