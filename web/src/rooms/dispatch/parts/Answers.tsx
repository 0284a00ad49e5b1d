import { NativeSelect } from "@mantine/core";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { useWords } from "../../../api";
import { answersQuery } from "../queries";
import { useRehearsalSeen } from "../seen";
import classes from "./Answers.module.css";

const KINDS = [
  { value: "", label: "all answers" },
  { value: "accepted", label: "accepted" },
  { value: "try_later", label: "try later" },
  { value: "refused_address", label: "refused for the address" },
  { value: "refused_sender", label: "refused for the relay" },
  { value: "connection", label: "connection trouble" },
];

/** The log of relay answers, in their own words; a line leads to the person's trace. */
export function Answers({ run, onTrace }: { run: number; onTrace: (delivery: number) => void }) {
  const [kind, setKind] = useState("");
  const { data } = useQuery(answersQuery(run, kind || null, useRehearsalSeen()));
  const words = useWords();
  return (
    <section>
      <header className={classes.head}>
        <h2>Relay log</h2>
        <NativeSelect
          size="xs"
          aria-label="Which answers"
          data={KINDS}
          value={kind}
          onChange={(event) => setKind(event.currentTarget.value)}
        />
      </header>
      <div className={classes.log}>
        {data?.length === 0 && <p className="soft">Nothing yet.</p>}
        {data?.map((line) => (
          <button
            key={line.id}
            type="button"
            className={classes.line}
            onClick={() => onTrace(line.delivery_id)}
          >
            <span className="faint">{words.seconds(line.at)}</span>
            <span className={classes.said} data-kind={line.kind}>
              {line.code || "—"} {line.text || line.words}
            </span>
            <span className={classes.name}>
              <bdi>{line.name || line.address}</bdi>
            </span>
          </button>
        ))}
      </div>
    </section>
  );
}
