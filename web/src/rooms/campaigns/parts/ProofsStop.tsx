import { Button, Progress } from "@mantine/core";
import { useMemo, useState } from "react";
import { May, useMay, useWords, wordsOf } from "../../../api";
import { blockOfPart } from "../../../core/comments";
import { EMPTY, readContent } from "../../../core/message";
import { count } from "../../../core/words";
import { Diamond, Empty, PageHead, Trouble, useKeys } from "../../../ui";
import { Comments, Lens, type PointedBlock } from "../../messages";
import type { Campaign } from "../useCampaign";
import { useProofs } from "../useProofs";
import { ProofCard } from "./ProofCard";
import classes from "./ProofsStop.module.css";
import { ProofTests } from "./ProofTests";
import sheet from "./StopSheet.module.css";

/** The fewest letters that together show everything that letters of this campaign can look like, to be ticked off. */
export function ProofsStop({ campaign }: { campaign: Campaign }) {
  const words = useWords();
  const may = useMay()("write");
  const { sheet: found, error, make, tick } = useProofs(campaign.id);
  const [chosen, setChosen] = useState<number>();
  const [pointed, setPointed] = useState<PointedBlock>();
  // Blocks are known by their ids, which words have that were never edited here too.
  const content = useMemo(() => readContent(campaign.content), [campaign.content]);
  const proofs = found?.proofs ?? [];
  const at = Math.max(
    0,
    chosen === undefined
      ? proofs.findIndex((one) => !one.seen_at)
      : proofs.findIndex((one) => one.contact_id === chosen),
  );
  const here = proofs[at];
  const keys = useMemo(() => {
    const go = (to: number) => () => setChosen(proofs[(to + proofs.length) % proofs.length]?.contact_id);
    return {
      ArrowRight: go(at + 1),
      ArrowLeft: go(at - 1),
      ArrowDown: go(at + 3),
      ArrowUp: go(at - 3),
      Enter: () => may && here && right(true),
    };
    function right(is: boolean) {
      if (!here) return;
      tick(here, is);
      const next = proofs.find((one, index) => index > at && !one.seen_at);
      if (next) setChosen(next.contact_id);
    }
  }, [proofs, at, here, may, tick]);
  useKeys(keys);
  if (error && !found) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!found) return <Empty title="Opening the proofs …" />;
  const seen = proofs.filter((one) => one.seen_at).length;
  return (
    <div className={sheet.two}>
      <div className={sheet.middle}>
        <PageHead
          title="Proofs"
          about={
            proofs.length > 0
              ? `${proofs.length === 1 ? "1 person shows" : `${proofs.length} people show`} ${
                  found.ways === 1 ? "the only way" : `all ${count(found.ways)} ways`
                } in which ${count(found.people)} ${found.people === 1 ? "letter differs" : "letters differ"}`
              : undefined
          }
        >
          {!found.missing && (
            <May be="write">
              <Button onClick={make} loading={found.making}>
                Make them anew
              </Button>
            </May>
          )}
        </PageHead>
        {error !== undefined && error !== null && <Trouble>{wordsOf(error)}</Trouble>}
        {found.missing && <Empty title="There is nothing to prove yet">{found.missing}</Empty>}
        {found.making && (
          <div role="status">
            <Progress
              value={found.total ? (100 * found.done) / found.total : 3}
              aria-label="How far the proofs are"
            />
            <p className="soft">
              {found.total
                ? `${count(found.done)} of ${count(found.total)} people looked at. You can leave; it goes on.`
                : "Looking at everybody who is cleared …"}
            </p>
          </div>
        )}
        {found.stale && !found.making && proofs.length > 0 && (
          <Trouble tone="held">
            These are of what was saved before. Make them anew to see what is sent.
          </Trouble>
        )}
        {!found.missing && !found.making && proofs.length === 0 && !found.stale && (
          <Empty title="Nobody is cleared">Open the gates in Who to see why.</Empty>
        )}
        {proofs.length > 0 && (
          <>
            <p className={classes.how}>
              {seen === proofs.length ? (
                <>
                  <Diamond state="done" size={13} /> All {proofs.length} are found right
                  {found.made_at && `; made ${words.moment(found.made_at)}`}.
                </>
              ) : (
                <>
                  {seen} of {proofs.length} found right. <kbd>←</kbd> <kbd>→</kbd> choose one,{" "}
                  <kbd>Enter</kbd> says that it is right.
                </>
              )}
            </p>
            <ul className={classes.grid} aria-label="Proofs">
              {proofs.map((one, index) => (
                <ProofCard
                  key={one.contact_id}
                  proof={one}
                  chosen={index === at}
                  onChoose={() => setChosen(one.contact_id)}
                />
              ))}
            </ul>
            {!found.stale && (
              <May be="write">
                <ProofTests campaign={campaign} proofs={proofs} />
              </May>
            )}
          </>
        )}
        {found.remarks.map((one) => (
          <Trouble key={one.message} tone="held">
            {one.message}
          </Trouble>
        ))}
      </div>
      <Lens
        content={campaign.content ?? EMPTY}
        messageId={campaign.message_id}
        criteria={campaign.criteria ?? "everyone"}
        audienceId={campaign.audience_id}
        campaignId={campaign.id}
        topicId={campaign.topic_id}
        senderId={campaign.sender_id}
        poolId={campaign.pool_id}
        person={here?.contact_id}
        onPlace={(place, language) =>
          setPointed({
            id: blockOfPart(content, language, place.part)?.id ?? "",
            language: content.others.some((one) => one.language === language) ? language : "",
          })
        }
      >
        {here && (
          <div className={classes.here}>
            <div>
              <b>{here.name}</b> is here to show:
              <ul className={classes.shows}>
                {here.shows.map((one) => (
                  <li key={one}>{one}</li>
                ))}
                {here.shows.length === 0 && <li>what everybody reads</li>}
              </ul>
            </div>
            {here.seen_at && (
              <span className="soft">
                <Diamond state="done" size={13} /> found right by {here.seen_by || "somebody"},{" "}
                {words.moment(here.seen_at)}
              </span>
            )}
            <May be="write">
              {here.seen_at ? (
                <Button onClick={() => tick(here, false)}>It is not right after all</Button>
              ) : (
                <Button variant="filled" onClick={keys.Enter}>
                  It is right <kbd className={classes.key}>Enter</kbd>
                </Button>
              )}
            </May>
            {campaign.message_id !== null && (
              <Comments
                messageId={campaign.message_id}
                content={content}
                language={pointed?.language ?? ""}
                pointed={pointed}
              />
            )}
          </div>
        )}
      </Lens>
    </div>
  );
}
