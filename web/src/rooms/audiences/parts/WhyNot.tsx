import { Button, TextInput } from "@mantine/core";
import { useMutation } from "@tanstack/react-query";
import { Link } from "@tanstack/react-router";
import { type FormEvent, useState } from "react";
import { client, type Schemas, take, wordsOf } from "../../../api";
import { Diamond, type DiamondState, Trouble } from "../../../ui";
import type { Cleared } from "../queries";
import classes from "./WhyNot.module.css";

/** Why somebody gets it, or not: an address is typed, each condition and each gate answers. */
export function WhyNot({ asked }: { asked: Cleared }) {
  const [address, setAddress] = useState("");
  const ask = useMutation({
    mutationFn: () =>
      take(
        client.POST("/api/clearance/explain", {
          body: { text: asked.text, audience_id: asked.audienceId, topic_id: asked.topicId, address },
        }),
      ),
  });
  function submit(event: FormEvent) {
    event.preventDefault();
    ask.mutate();
  }
  return (
    <section className={classes.why} aria-label="Why not?">
      <form className={classes.ask} onSubmit={submit}>
        <TextInput
          size="xs"
          label="Why does somebody get it, or not?"
          placeholder="their e-mail address"
          w={300}
          value={address}
          onChange={(event) => {
            setAddress(event.currentTarget.value);
            ask.reset();
          }}
        />
        <Button type="submit" disabled={!address.trim()} loading={ask.isPending}>
          Why?
        </Button>
      </form>
      {ask.error && <Trouble>{wordsOf(ask.error)}</Trouble>}
      {ask.data?.words.map((words) => (
        <p key={words} role="status">
          {words}
        </p>
      ))}
      {ask.data?.people.map((way) => (
        <Way key={way.id} way={way} />
      ))}
    </section>
  );
}

const OUTCOMES: Record<string, DiamondState> = { passed: "done", held: "attention", lifted: "open" };
const OUTCOME_WORDS: Record<string, string> = {
  lifted: "lifted for this campaign",
  not_reached: "not reached",
};

function Way({ way }: { way: Schemas["Explanation"] }) {
  return (
    <div className={classes.way} role="status">
      <p>
        <b>{way.words}</b>{" "}
        <Link to="/contacts" search={{ person: way.id }}>
          Open the person
        </Link>
      </p>
      <ul>
        {way.conditions.map((one) => (
          <li key={one.condition} style={{ paddingInlineStart: 18 * one.depth }}>
            <Diamond state={one.holds ? "done" : "bad"} size={12} />{" "}
            <span className="mono">{one.condition}</span>{" "}
            <span className="soft">
              {one.holds ? "holds" : "does not hold"}
              {one.value !== null && <>; theirs: {one.value}</>}
            </span>
          </li>
        ))}
        {way.gates.map((gate) => (
          <li key={gate.key}>
            <Diamond state={OUTCOMES[gate.outcome] ?? "later"} size={12} /> {gate.label}{" "}
            <span className="soft">
              {gate.outcome === "held" ? `${gate.reason}. ${gate.mend}` : (OUTCOME_WORDS[gate.outcome] ?? "")}
            </span>
          </li>
        ))}
      </ul>
    </div>
  );
}
