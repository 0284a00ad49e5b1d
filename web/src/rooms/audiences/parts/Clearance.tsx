import { Button } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Schemas, useWords, wordsOf } from "../../../api";
import { count, people } from "../../../core/words";
import { Trouble } from "../../../ui";
import { type Cleared, clearanceQuery, heldQuery, withoutQuery } from "../queries";
import { usePick } from "../usePick";
import classes from "./Clearance.module.css";
import { WhyNot } from "./WhyNot";

interface ClearanceProps {
  asked: Cleared;
  topic: string | undefined;
  /** What they are cleared to receive. */
  name: string;
  /** Lift a gate for the campaign, or let it hold again; not where there is no campaign. */
  onLift?: (gate: string, lifted: boolean) => void;
}

/** The clearance as a falling stack of gates, widths to scale; each opens to its people and their reasons. */
export function Clearance({ asked, topic, name, onLift }: ClearanceProps) {
  const { data: taken, error } = useQuery(clearanceQuery(asked));
  const words = useWords();
  const [open, setOpen] = useState<string>();
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!taken) return null;
  return (
    <section className={classes.clearance} aria-label="Clearance">
      <header>
        <h2>Clearance</h2>
        <span className="faint">
          as of {words.seconds(taken.taken_at)} · taken again{" "}
          {asked.onPaper ? "when letters are laid out" : "at release"}
        </span>
      </header>
      <div className={classes.gate}>
        <span className={classes.label}>matched</span>
        <Bar matched={taken.matched} left={taken.matched} held={0} />
        <span>{count(taken.matched)}</span>
      </div>
      {taken.gates.map((gate) => (
        <GateLine
          key={gate.key}
          gate={gate}
          matched={taken.matched}
          label={gate.key === "consent" && topic ? `opted in to ${topic}` : gate.label}
          open={open === gate.key}
          onToggle={() => setOpen(open === gate.key ? undefined : gate.key)}
          asked={asked}
          cleared={taken.cleared}
          onLift={onLift}
        />
      ))}
      <footer>
        <b className={classes.big}>{count(taken.cleared)}</b>
        <span>
          {taken.cleared === 1 ? "person is" : "people are"} cleared{" "}
          {asked.onPaper ? "for a letter of" : "to receive"} <b>{name}</b>
        </span>
      </footer>
      {taken.cleared > 0 && <Judged asked={asked} gate={null} />}
      {!asked.onPaper && <WhyNot asked={asked} />}
    </section>
  );
}

function Bar({ matched, left, held }: { matched: number; left: number; held: number }) {
  const share = (value: number) => `${(100 * value) / Math.max(1, matched)}%`;
  return (
    <span className={classes.track} aria-hidden="true">
      <i className={classes.pass} style={{ width: share(left) }} />
      {held > 0 && (
        <i className={`${classes.stay} hatch`} style={{ left: share(left), width: share(held) }} />
      )}
    </span>
  );
}

interface GateLineProps {
  gate: Schemas["GateView"];
  matched: number;
  label: string;
  open: boolean;
  onToggle: () => void;
  asked: Cleared;
  /** How many are cleared with all gates. */
  cleared: number;
  onLift: ((gate: string, lifted: boolean) => void) | undefined;
}

function GateLine({ gate, matched, label, open, onToggle, asked, cleared, onLift }: GateLineProps) {
  const line = (
    <>
      <span className={classes.label}>{label}</span>
      <Bar matched={matched} left={gate.left} held={gate.held} />
      {gate.held > 0 ? (
        <span className={classes.held}>
          {count(gate.held)} held <span aria-hidden="true">{open ? "▴" : "▾"}</span>
        </span>
      ) : (
        <span className="faint">none</span>
      )}
    </>
  );
  if (gate.lifted) {
    return (
      <div className={classes.gate}>
        <span className={classes.label}>{label}</span>
        <span className="soft">lifted for this campaign: it holds nobody</span>
        {onLift && (
          <Button
            size="compact-xs"
            aria-label={`Let it hold again: ${label}`}
            onClick={() => onLift(gate.key, false)}
          >
            Hold again
          </Button>
        )}
      </div>
    );
  }
  if (gate.held === 0) return <div className={classes.gate}>{line}</div>;
  return (
    <div className={open ? classes.opened : undefined}>
      <button type="button" className={classes.gate} aria-expanded={open} onClick={onToggle}>
        {line}
      </button>
      {open && (
        <div className={classes.people}>
          {gate.reasons.map((reason) => (
            <div key={reason.key} className={classes.reason}>
              <b>{reason.words}</b>
              <span className="soft">
                {reason.names.join(", ")}
                {reason.held > reason.names.length && `, +${count(reason.held - reason.names.length)}`}
              </span>
              <span className="soft">{count(reason.held)}</span>
            </div>
          ))}
          <p className="soft">
            {gate.mend} <Mend to={gate.mended_in} asked={asked} />{" "}
            {gate.may_be_lifted && !asked.onPaper && (
              <Without asked={asked} gate={gate.key} cleared={cleared} />
            )}{" "}
            {gate.may_be_lifted && onLift && (
              <Button size="compact-xs" onClick={() => onLift(gate.key, true)}>
                Lift it for this campaign
              </Button>
            )}
          </p>
          <Judged asked={asked} gate={gate.key} />
        </div>
      )}
    </div>
  );
}

/** The way to the place where what holds people can be mended; of some the person's own page is the place. */
function Mend({ to, asked }: { to: string; asked: Cleared }) {
  switch (to) {
    case "imports":
      return <Link to="/contacts/import">Import a file</Link>;
    case "topic":
      return (
        <Link to="/set-up/$part" params={{ part: "topics" }}>
          The topics
        </Link>
      );
    case "caps":
      return (
        <Link to="/set-up/$part" params={{ part: "limits" }}>
          The limits
        </Link>
      );
    case "suppression":
      return <Link to="/contacts/suppression">The suppression list</Link>;
    case "duplicates":
      return <Link to="/contacts/duplicates">The duplicates</Link>;
    case "audience":
      return asked.audienceId === null ? null : (
        <Link to="/audiences/$id" params={{ id: String(asked.audienceId) }}>
          The audience
        </Link>
      );
    default:
      return null;
  }
}

/** What would change if a gate held nobody. */
function Without({ asked, gate, cleared }: { asked: Cleared; gate: string; cleared: number }) {
  const { data } = useQuery(withoutQuery(asked, gate));
  if (data === undefined) return null;
  return <>Without this gate {data === cleared ? "nobody" : count(data - cleared)} more would be cleared.</>;
}

/** The people behind a gate, or who are cleared; of a saved audience each can be left out, or taken back in. */
function Judged({ asked, gate }: { asked: Cleared; gate: string | null }) {
  const [shown, setShown] = useState(false);
  const { data } = useQuery({ ...heldQuery(asked, gate), enabled: shown });
  const pick = usePick(asked.audienceId);
  if (!shown) {
    return (
      <button
        type="button"
        className={gate === null ? `${classes.show} ${classes.calm}` : classes.show}
        onClick={() => setShown(true)}
      >
        {gate === null ? "Show who is cleared" : "Show the people"}
      </button>
    );
  }
  return (
    <ul
      className={classes.list}
      aria-label={gate === null ? "Who is cleared" : `${people(data?.length ?? 0)} held`}
    >
      {data?.map((person) => (
        <li key={person.id}>
          <Link to="/contacts" search={{ person: person.id }}>
            <bdi>{person.name || "no name"}</bdi>
          </Link>{" "}
          <span className="soft">
            {[person.address, person.reason].filter(Boolean).join(" · ")}
            {gate === "address" && person.import_id !== null && (
              <>
                {" "}
                · came with{" "}
                <Link to="/contacts/import" search={{ import: person.import_id }}>
                  {person.file}
                </Link>
              </>
            )}
          </span>{" "}
          {asked.audienceId !== null && (gate === null || gate === "left_out") && (
            <Button
              size="compact-xs"
              variant="subtle"
              color="gray"
              aria-label={`${gate === null ? "Leave out" : "Take back in"} ${person.name}`}
              onClick={() => pick.mutate({ id: person.id, kind: gate === null ? "left_out" : null })}
            >
              {gate === null ? "Leave out" : "Take back in"}
            </Button>
          )}
        </li>
      ))}
    </ul>
  );
}
