import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type Schemas, useWords, wordsOf } from "../../../api";
import { count, people, percent } from "../../../core/words";
import { ButtonLink, Letter, PageHead, Trouble } from "../../../ui";
import { runLetterQuery, runQuery } from "../queries";
import { PublicCopy } from "./PublicCopy";
import classes from "./RunPanel.module.css";

/** What came back of one run: how far people went, which links they followed, and who left and why. */
export function RunPanel({ id }: { id: number }) {
  const words = useWords();
  const { data: run, error } = useQuery(runQuery(id));
  const { data: letter } = useQuery({
    ...runLetterQuery(id, run ? run.clicked + run.clicked_counted : 0),
    enabled: !!run && run.accepted > 0,
  });
  if (error && !run) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!run) return null;
  const to = { params: { id: String(run.campaign_id) }, search: { stop: "dispatch", run: id } };
  return (
    <div className={classes.panel}>
      <PageHead title={run.campaign} about={`run ${run.number}, released ${words.moment(run.released_at)}`}>
        <ButtonLink to="/campaigns/$id" {...to}>
          Open dispatch
        </ButtonLink>
      </PageHead>
      <div className={classes.columns}>
        <div className={classes.main}>
          <Funnel run={run} />
          <p className="soft">
            People are counted once each. {count(run.machine_events)}{" "}
            {run.machine_events === 1 ? "fetch was" : "fetches were"} a machine’s, by named rules, and{" "}
            {run.machine_events === 1 ? "is" : "are"} not among them. Who opens without pictures is not seen.
          </p>
          <Noted run={run} />
          {run.waiting > 0 && (
            <Trouble tone="held">
              <Link to="/responses" search={{ group: "waiting" }}>
                {run.waiting === 1 ? "1 reply waits" : `${count(run.waiting)} replies wait`} for an answer
              </Link>
            </Trouble>
          )}
          <Links run={run} />
          <Leavers run={run} />
          <PublicCopy run={run} />
        </div>
        <section className={classes.letter} aria-label="The message with its clicks">
          <h2>People who followed each link</h2>
          {letter ? (
            <Letter html={letter.html} title="The message with its clicks" />
          ) : (
            <p className="soft">Nothing was accepted yet.</p>
          )}
        </section>
      </div>
    </div>
  );
}

/** In words, how many, how it is drawn, and of how many its share is told. */
type Step = [string, number, string, number?];

function Funnel({ run }: { run: Schemas["RunResponses"] }) {
  const steps: Step[] = [
    ["planned", run.planned, "plain"],
    ["accepted by the relay", run.accepted, "good", run.planned],
    ["bounced later", run.bounced, "bad", run.accepted],
    // What is not noted by person is no step of theirs.
    ...(run.tracking.opens === "by_person" ? [["opened", run.opened, "good", run.accepted] as Step] : []),
    ...(run.tracking.clicks === "by_person" ? [["clicked", run.clicked, "good", run.accepted] as Step] : []),
    ["replied", run.replied, "good", run.accepted],
    ["left the topic", run.left, "held", run.accepted],
    ["complained", run.complained, "bad", run.accepted],
  ];
  return (
    <table className={classes.funnel} aria-label="How far people went">
      <tbody>
        {steps.map(([words, n, tone, of]) => (
          <tr key={words}>
            <th scope="row">{words}</th>
            <td className={classes.number}>{count(n)}</td>
            <td className={classes.track}>
              {n > 0 && <i data-tone={tone} style={{ width: `${(100 * n) / run.planned}%` }} />}
            </td>
            <td className="soft">{of === undefined ? "" : percent(n, of)}</td>
          </tr>
        ))}
      </tbody>
    </table>
  );
}

/** What of it is only counted, or not noted: then the funnel cannot tell. */
function Noted({ run }: { run: Schemas["RunResponses"] }) {
  const said = [
    ["Opens", run.tracking.opens, run.opened_counted] as const,
    ["Clicks", run.tracking.clicks, run.clicked_counted] as const,
  ].flatMap(([what, level, times]) => {
    if (level === "off") return [`${what} are not noted in this run.`];
    if (level === "by_person" && times === 0) return [];
    const whose = level === "counted" ? "not by whom" : "of people who wish not to be named";
    return [`${what} that are counted, ${whose}: ${count(times)}.`];
  });
  return said.length > 0 && <p>{said.join(" ")}</p>;
}

function Links({ run }: { run: Schemas["RunResponses"] }) {
  if (run.links.length === 0 || run.tracking.clicks === "off") return null;
  return (
    <section aria-label="Links">
      <h2>Links</h2>
      {run.links.map((link) => (
        <div key={link.number} className={classes.link}>
          <span>{link.words}</span>
          <span className={`mono soft ${classes.address}`}>{link.address ?? "another for each person"}</span>
          <span>
            {people(link.people)}
            {link.counted > 0 && `, and ${count(link.counted)} times not told by whom`}
          </span>
          <span className="faint">{link.machines > 0 && `${count(link.machines)} by machines`}</span>
        </div>
      ))}
    </section>
  );
}

function Leavers({ run }: { run: Schemas["RunResponses"] }) {
  const words = useWords();
  if (run.leavers.length === 0) return null;
  return (
    <section aria-label="Who left">
      <h2>Who left {run.topic}, and why</h2>
      {run.leavers.map((one) => (
        <div key={`${one.delivery_id} ${one.at}`} className={classes.leaver}>
          <Link to="/responses" search={{ group: "left", delivery: one.delivery_id }}>
            <bdi>{one.name ?? "somebody who was erased"}</bdi>
          </Link>
          <span className="faint">{words.moment(one.at)}</span>
          <span>
            {one.words}
            {one.why && <bdi dir="auto">: “{one.why}”</bdi>}
          </span>
        </div>
      ))}
    </section>
  );
}
