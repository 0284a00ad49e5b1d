import { useQuery } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { useState } from "react";
import { type Schemas, useWords, wordsOf } from "../../../api";
import { count, people } from "../../../core/words";
import { Trouble } from "../../../ui";
import { clearanceQuery, heldQuery } from "../queries";
import classes from "./Clearance.module.css";

interface ClearanceProps {
  text: string;
  topicId: number | null;
  topic: string | undefined;
  /** What they are cleared to receive. */
  name: string;
}

/** The clearance as a falling stack of gates, widths to scale; each opens to its people and their reasons. */
export function Clearance({ text, topicId, topic, name }: ClearanceProps) {
  const { data: taken, error } = useQuery(clearanceQuery(text, topicId));
  const words = useWords();
  const [open, setOpen] = useState<string>();
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  if (!taken) return null;
  return (
    <section className={classes.clearance} aria-label="Clearance">
      <header>
        <h2>Clearance</h2>
        <span className="faint">as of {words.seconds(taken.taken_at)} · taken again at release</span>
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
          text={text}
          topicId={topicId}
        />
      ))}
      <footer>
        <b className={classes.big}>{count(taken.cleared)}</b>
        <span>
          {taken.cleared === 1 ? "person is" : "people are"} cleared to receive <b>{name}</b>
        </span>
      </footer>
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
  text: string;
  topicId: number | null;
}

function GateLine({ gate, matched, label, open, onToggle, text, topicId }: GateLineProps) {
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
          <p className="soft">{gate.mend}</p>
          <Held text={text} topicId={topicId} gate={gate.key} />
        </div>
      )}
    </div>
  );
}

function Held({ text, topicId, gate }: { text: string; topicId: number | null; gate: string }) {
  const [shown, setShown] = useState(false);
  const { data } = useQuery({ ...heldQuery(text, topicId, gate), enabled: shown });
  if (!shown) {
    return (
      <button type="button" className={classes.show} onClick={() => setShown(true)}>
        Show the people
      </button>
    );
  }
  return (
    <ul className={classes.list} aria-label={`${people(data?.length ?? 0)} held`}>
      {data?.map((person) => (
        <li key={person.id}>
          <Link to="/contacts" search={{ person: person.id }}>
            <bdi>{person.name || "no name"}</bdi>
          </Link>{" "}
          <span className="soft">
            {person.address ?? "no address"} · {person.reason}
          </span>
        </li>
      ))}
    </ul>
  );
}
