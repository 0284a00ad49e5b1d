import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { May, type Schemas, useWords, wordsOf } from "../../api";
import { count, people, percent } from "../../core/words";
import { ButtonLink, Diamond, Empty, Page, PageHead, Trouble } from "../../ui";
import { isOpen, RUN_MARKS } from "../dispatch";
import classes from "./DeskPage.module.css";
import { deskQuery } from "./queries";

/** The first screen: what is going out, what needs somebody, what was sent. */
export function DeskPage() {
  const { data: desk, error } = useQuery({ ...deskQuery, refetchInterval: 2000 });
  const words = useWords();
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!desk) return null;
  const now = desk.runs.filter((run) => isOpen(run.state));
  const before = desk.runs.filter((run) => run.state !== "going" && run.state !== "paused");
  const troubled = desk.runs.filter((run) => run.trouble);
  return (
    <Page className={classes.page}>
      <PageHead
        title="Desk"
        about={`${count(desk.contacts)} contacts, ${desk.campaigns === 1 ? "1 campaign" : `${count(desk.campaigns)} campaigns`}`}
      >
        <May be="contacts">
          <ButtonLink to="/contacts/import">Import people</ButtonLink>
        </May>
        <ButtonLink to="/campaigns" variant="filled">
          Open campaigns
        </ButtonLink>
      </PageHead>
      <section>
        <h2>Now</h2>
        {now.length === 0 && (
          <Empty title="Nothing is going out">Open a campaign and release it; it will stand here.</Empty>
        )}
        {now.map((run) => (
          <RunCard key={run.run_id} run={run} />
        ))}
      </section>
      <section>
        <h2>Needs you</h2>
        {troubled.map((run) => (
          <Trouble key={run.run_id} tone="held">
            <b>{run.campaign}</b>: {run.trouble}
          </Trouble>
        ))}
        {desk.not_released.map((one) => (
          <Trouble key={one.campaign_id} tone="held">
            <Link to="/campaigns/$id" params={{ id: String(one.campaign_id) }} search={{ stop: "release" }}>
              {one.campaign}
            </Link>{" "}
            should have been released {words.moment(one.at)}, and was not: {one.words}
          </Trouble>
        ))}
        {desk.unknown > 0 && (
          <Trouble tone="held">
            {people(desk.unknown)} may or may not have got their message: a connection or a worker broke at
            the wrong moment. They are not written to again by themselves.
          </Trouble>
        )}
        {desk.replies_waiting > 0 && (
          <Trouble tone="held">
            <Link to="/responses" search={{ group: "waiting" }}>
              {desk.replies_waiting === 1 ? "1 reply waits" : `${count(desk.replies_waiting)} replies wait`}{" "}
              for an answer
            </Link>
          </Trouble>
        )}
        {troubled.length + desk.not_released.length + desk.unknown + desk.replies_waiting === 0 && (
          <p className="soft">Nothing at the moment.</p>
        )}
      </section>
      {before.length > 0 && (
        <section>
          <h2>Sent</h2>
          {before.map((run) => (
            <RunCard key={run.run_id} run={run} />
          ))}
        </section>
      )}
    </Page>
  );
}

function RunCard({ run }: { run: Schemas["RunNow"] }) {
  const words = useWords();
  const done = run.planned - run.moving;
  const when =
    run.state === "going"
      ? run.ends_at
        ? `ends ${words.moment(run.ends_at)}`
        : "ending"
      : run.ended_at
        ? `${run.state} ${words.moment(run.ended_at)}`
        : run.state;
  return (
    <Link
      to="/campaigns/$id"
      params={{ id: String(run.campaign_id) }}
      search={{ stop: "dispatch", run: run.run_id }}
      className={classes.run}
    >
      <Diamond state={RUN_MARKS[run.state]} />
      <b>{run.campaign}</b>
      <span className={classes.track} aria-hidden="true">
        <i style={{ width: `${(100 * done) / Math.max(1, run.planned)}%` }} />
      </span>
      <span>
        {count(run.accepted)} of {count(run.planned)} accepted
      </span>
      <span className="soft">
        {percent(done, run.planned)}, {when}
      </span>
    </Link>
  );
}
