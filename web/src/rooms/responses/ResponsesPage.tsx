import { Button } from "@mantine/core";
import { useInfiniteQuery, useQuery } from "@tanstack/react-query";
import { useCallback, useMemo } from "react";
import { type Schemas, useWords, wordsOf } from "../../api";
import { count } from "../../core/words";
import { Empty, Trouble, useKeys } from "../../ui";
import { GROUPS, groupOf, type ResponsesPlace } from "./groups";
import { LeftPanel } from "./parts/LeftPanel";
import { MailPanel } from "./parts/MailPanel";
import { RunPanel } from "./parts/RunPanel";
import { linesQuery, responsesQuery, runsQuery } from "./queries";
import classes from "./ResponsesPage.module.css";
import { useLive } from "./useLive";

interface ResponsesPageProps {
  place: ResponsesPlace;
  onPlace: (place: ResponsesPlace) => void;
}

/** What came back, in groups that somebody works through. */
export function ResponsesPage({ place, onPlace }: ResponsesPageProps) {
  const group = groupOf(place.group);
  const { data: view, error } = useQuery(responsesQuery);
  const query = useInfiniteQuery(linesQuery(group.key));
  const lines = useMemo(() => query.data?.pages.flat() ?? [], [query.data]);
  const at = lines.findIndex((one) =>
    place.mail ? one.mail_id === place.mail : one.delivery_id === place.delivery,
  );
  const open = useCallback(
    (line: Schemas["ResponseLine"] | undefined) =>
      onPlace({ group: group.key, mail: line?.mail_id ?? undefined, delivery: lineDelivery(line) }),
    [group.key, onPlace],
  );
  // What is done leaves the group: the next one is looked at, or else the one before.
  const goOn = useCallback(() => open(lines[at + 1] ?? lines[at - 1]), [open, lines, at]);
  const keys = useMemo(() => {
    const go = (step: number) => {
      const next = lines[Math.min(Math.max(0, at + step), lines.length - 1)];
      if (next) open(next);
    };
    return { j: () => go(1), k: () => go(-1), Escape: () => open(undefined) };
  }, [lines, at, open]);
  useKeys(keys);
  useLive();
  const fault = error ?? query.error;
  return (
    <div className={classes.page}>
      <nav className={classes.groups} aria-label="Groups of responses">
        <h1>Responses</h1>
        {GROUPS.map((one) => (
          <button
            key={one.key}
            type="button"
            className={classes.group}
            aria-current={!place.run && one.key === group.key ? "page" : undefined}
            onClick={() => onPlace({ group: one.key, mail: undefined, delivery: undefined })}
          >
            {one.label}
            <span className="soft">{view ? count(view.counts[one.key] ?? 0) : ""}</span>
          </button>
        ))}
        <Runs here={place.run} onRun={(run) => onPlace({ run })} />
        {view && <ReadFrom addresses={view.addresses} />}
        {view?.mailboxes.map((one) => (
          <MailboxLook key={one.name} mailbox={one} />
        ))}
      </nav>
      {place.run ? (
        <RunPanel key={place.run} id={place.run} />
      ) : (
        <>
          <section className={classes.lines} aria-label={group.label}>
            {fault && <Trouble>{wordsOf(fault)}</Trouble>}
            {query.isSuccess && lines.length === 0 && <Empty title="Nobody">{group.empty}</Empty>}
            {lines.map((line, index) => (
              <Line key={line.id} line={line} here={index === at} onOpen={() => open(line)} />
            ))}
            {query.hasNextPage && (
              <Button m={12} loading={query.isFetchingNextPage} onClick={() => query.fetchNextPage()}>
                Show more
              </Button>
            )}
          </section>
          <section className={classes.panel} aria-label="What came back">
            {place.mail ? (
              <MailPanel
                key={place.mail}
                id={place.mail}
                users={view?.users ?? []}
                onDone={group.key === "waiting" || group.key === "asks" ? goOn : undefined}
              />
            ) : place.delivery ? (
              <LeftPanel key={place.delivery} delivery={place.delivery} />
            ) : (
              lines.length > 0 && (
                <p className={classes.hint}>
                  Choose somebody on the left, or go through them with <kbd>J</kbd> and <kbd>K</kbd>.
                </p>
              )
            )}
          </section>
        </>
      )}
    </div>
  );
}

/** The runs that went out last, each with what came back of it. */
function Runs({ here, onRun }: { here: number | undefined; onRun: (run: number) => void }) {
  const { data: runs } = useQuery(runsQuery);
  if (!runs?.length) return null;
  return (
    <>
      <h2>By run</h2>
      {runs.map((one) => (
        <button
          key={one.run_id}
          type="button"
          className={classes.group}
          aria-current={one.run_id === here ? "page" : undefined}
          onClick={() => onRun(one.run_id)}
        >
          {one.campaign}
          <span className="soft">run {one.number}</span>
        </button>
      ))}
    </>
  );
}

/** Who left by a link wrote nothing: their trace is shown. */
const lineDelivery = (line: Schemas["ResponseLine"] | undefined) =>
  line && line.mail_id === null ? (line.delivery_id ?? undefined) : undefined;

function Line({ line, here, onOpen }: { line: Schemas["ResponseLine"]; here: boolean; onOpen: () => void }) {
  const words = useWords();
  return (
    <button type="button" className={classes.line} aria-pressed={here} onClick={onOpen}>
      <span className={classes.who}>
        <bdi className={classes.name}>{line.name ?? line.address ?? "somebody who was erased"}</bdi>
        {line.assigned_to && <span className={classes.tag}>{line.assigned_to.split(" ")[0]}</span>}
        {line.done && <span className="faint">done</span>}
      </span>
      <time dateTime={line.at}>{words.moment(line.at)}</time>
      <bdi dir="auto" className={classes.words}>
        {line.words}
      </bdi>
    </button>
  );
}

function MailboxLook({ mailbox }: { mailbox: Schemas["MailboxLine"] }) {
  const words = useWords();
  return (
    <p className={classes.from}>
      Read from <b>{mailbox.name}</b>
      {mailbox.looked_at ? `, last look ${words.moment(mailbox.looked_at)}.` : ", not looked at yet."}
      {mailbox.trouble && (
        <span className={classes.trouble}>
          {" "}
          It cannot be read now ({mailbox.trouble}). It is tried again by itself.
        </span>
      )}
    </p>
  );
}

function ReadFrom({ addresses }: { addresses: string[] }) {
  return (
    <p className={classes.from}>
      {addresses.length > 0 ? (
        <>
          What is written to{" "}
          {addresses.slice(0, 3).map((one, index) => (
            <span key={one}>
              {index > 0 && ", "}
              <b>
                {one.split("@")[0]}
                <wbr />@{one.split("@")[1]}
              </b>
            </span>
          ))}
          {addresses.length > 3 && ` and ${addresses.length - 3} more`}, and comes back from providers. The
          last 30 days; who waits for an answer stays until it is done.
        </>
      ) : (
        "Make a sender in Set-up: what is written to it comes here."
      )}
    </p>
  );
}
