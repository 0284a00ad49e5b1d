import { Button, NativeSelect, Progress } from "@mantine/core";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { May, type Schemas, useWords, wordsOf } from "../../../api";
import { count, people } from "../../../core/words";
import { ConfirmButton, Empty, PageHead, Trouble } from "../../../ui";
import { Clearance } from "../../audiences";
import type { Campaign } from "../useCampaign";
import { type PrintingView, usePrinting } from "../usePrinting";
import classes from "./PaperStop.module.css";
import sheet from "./StopSheet.module.css";

const letters = (n: number) => (n === 1 ? "1 letter" : `${count(n)} letters`);
const pages = (n: number) => (n === 1 ? "1 page" : `${count(n)} pages`);

/** The same words on paper for those of the audience who have no e-mail address. */
export function PaperStop({ campaign }: { campaign: Campaign }) {
  const { view, error, making, layOut, end } = usePrinting(campaign.id);
  if (error && !view) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!view) return <Empty title="Opening the letters on paper …" />;
  return (
    <div className={sheet.middle}>
      <PageHead title="On paper" about="the same words for those who have no e-mail address" />
      {error !== null && <Trouble>{wordsOf(error)}</Trouble>}
      {view.missing && <Empty title="There is nothing to lay out yet">{view.missing}</Empty>}
      {view.open && <Open campaign={campaign} printing={view.open} onEnd={end} />}
      {!view.missing && !view.open && (
        <Begin campaign={campaign} view={view} making={making} onLayOut={layOut} />
      )}
      <Before campaign={campaign} before={view.before} />
      {!view.missing && (
        <Clearance
          asked={{
            text: campaign.criteria ?? "everyone",
            audienceId: campaign.audience_id,
            topicId: campaign.topic_id,
            campaignId: campaign.id,
            onPaper: true,
          }}
          topic={campaign.topic ?? undefined}
          name={campaign.name}
        />
      )}
    </div>
  );
}

interface BeginProps {
  campaign: Campaign;
  view: PrintingView;
  making: boolean;
  onLayOut: (paper: string, seen: number) => void;
}

function Begin({ campaign, view, making, onLayOut }: BeginProps) {
  const [chosen, setChosen] = useState<string>();
  const paper = chosen ?? view.usual_paper;
  if (view.cleared === 0 && view.before.length > 0) return null;
  if (view.cleared === 0)
    return <Empty title="Nobody is cleared for a letter">Open the gates below to see why.</Empty>;
  const now = Math.min(view.cleared, view.most);
  return (
    <div className={classes.made}>
      <div className={classes.line}>
        <NativeSelect
          size="xs"
          className={classes.paper}
          label="Paper and envelope"
          value={paper}
          data={view.papers.map((one) => ({ value: one.key, label: one.label }))}
          onChange={(event) => setChosen(event.currentTarget.value)}
        />
        <Button
          component="a"
          href={`/api/campaigns/${campaign.id}/letters/sample.pdf?paper=${paper}`}
          target="_blank"
          rel="noreferrer"
        >
          Look at the first letter
        </Button>
        <May be="release">
          <Button variant="filled" loading={making} onClick={() => onLayOut(paper, view.cleared)}>
            Lay out {letters(now)}
          </Button>
        </May>
      </div>
      <p className="soft">
        They become one PDF, sorted by postcode, with each address in the window of the envelope.
        {view.cleared > now &&
          ` The first ${count(now)} of ${count(view.cleared)} now, the others after that.`}{" "}
        Pictures from other websites are not printed.
      </p>
    </div>
  );
}

interface OpenProps {
  campaign: Campaign;
  printing: Schemas["OpenPrinting"];
  onEnd: (id: number, printed: boolean) => Promise<unknown>;
}

/** Letters that are being laid out, or wait for being printed. */
function Open({ campaign, printing, onEnd }: OpenProps) {
  const words = useWords();
  const throwAway = (
    <May be="release">
      <ConfirmButton words="Throw them away…" yes="Throw them away" onYes={() => onEnd(printing.id, false)} />
    </May>
  );
  if (printing.state === "making")
    return (
      <div className={classes.made} role="status">
        <Progress
          value={(100 * printing.done) / printing.letters || 3}
          aria-label="How far the letters are"
        />
        <p className="soft">
          {count(printing.done)} of {letters(printing.letters)} laid out. You can leave; it goes on.
        </p>
        <div className={classes.line}>{throwAway}</div>
      </div>
    );
  if (printing.state === "broken")
    return (
      <div className={classes.made}>
        <Trouble>
          {printing.fault || "Laying out these letters broke off."} Throw them away, then lay them out again.
        </Trouble>
        <div className={classes.line}>{throwAway}</div>
      </div>
    );
  return (
    <section className={classes.made} aria-label="Letters to be printed">
      <p>
        <b>
          {letters(printing.letters)}, {pages(printing.pages)}
        </b>{" "}
        <span className="soft">laid out {words.moment(printing.begun_at)}</span>
      </p>
      {printing.stale && (
        <Trouble tone="held">
          The words were saved anew since. Throw these away and lay them out again to print the new words.
        </Trouble>
      )}
      {printing.take_out.length > 0 && (
        <Trouble tone="held">
          Take these out of the stack before you post it; they are not noted as printed:
          <ul className={classes.out} aria-label="To be taken out">
            {printing.take_out.map((one) => (
              <li key={one.contact_id}>
                <Link to="/contacts" search={{ person: one.contact_id }}>
                  <bdi>{one.name}</bdi>
                </Link>{" "}
                {one.why}: page {count(one.page)}
                {one.pages > 1 && ` to ${count(one.page + one.pages - 1)}`}
              </li>
            ))}
          </ul>
        </Trouble>
      )}
      <May be="release">
        <div className={classes.line}>
          <Download campaign={campaign} id={printing.id} main />
          <ConfirmButton
            words="They are printed…"
            yes={`Note ${letters(printing.letters - printing.take_out.length)} as printed`}
            onYes={() => onEnd(printing.id, true)}
          />
          {throwAway}
        </div>
      </May>
      <p className="soft">
        Print them, then say so: it stands in each person's history, and nobody gets this campaign on paper
        twice.
      </p>
    </section>
  );
}

function Download({ campaign, id, main }: { campaign: Campaign; id: number; main?: boolean }) {
  return (
    <Button
      component="a"
      variant={main ? "filled" : "default"}
      href={`/api/campaigns/${campaign.id}/letters/${id}.pdf`}
      download
    >
      Download the PDF
    </Button>
  );
}

function Before({ campaign, before }: { campaign: Campaign; before: Schemas["PrintedBefore"][] }) {
  const words = useWords();
  if (before.length === 0) return null;
  return (
    <ul className={classes.before} aria-label="Printed letters">
      {before.map((one) => (
        <li key={one.id} className={classes.line}>
          <span>
            <b>{people(one.letters)}</b> got a letter on paper{" "}
            <span className="soft">
              {pages(one.pages)}, printed {words.moment(one.printed_at)}
              {one.by && ` by ${one.by}`}
            </span>
          </span>
          {one.kept && (
            <May be="release">
              <Download campaign={campaign} id={one.id} />
            </May>
          )}
        </li>
      ))}
    </ul>
  );
}
