import { Button, SegmentedControl } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useMemo, useState } from "react";
import { May, type Schemas, wordsOf } from "../../../api";
import type { Content } from "../../../core/message";
import { count } from "../../../core/words";
import { Diamond, Letter, Trouble, useKeys } from "../../../ui";
import { lensQuery } from "../queries";
import classes from "./Lens.module.css";
import { TestSend } from "./TestSend";

interface LensProps {
  content: Content;
  /** The message that a test is of; null while it is new. */
  messageId: number | null;
  /** The criteria line whose cleared people are looked at. */
  criteria: string;
  /** The audience whose hand-picked people are looked at as well. */
  audienceId?: number | null;
  /** The campaign whose rules say who is cleared. */
  campaignId?: number | null;
  topicId: number | null;
  senderId: number | null;
  relayId: number | null;
  /** What is wrong with the words, as they are on screen. */
  onProblems?: (problems: Schemas["PartProblemView"][]) => void;
  children?: ReactNode;
}

type Look = "letter" | "text" | "telephone" | "dark";

/** The message as one real recipient would get it; J and K step through the cleared people. */
export function Lens({
  content,
  messageId,
  criteria,
  audienceId = null,
  campaignId = null,
  topicId,
  senderId,
  relayId,
  onProblems,
  children,
}: LensProps) {
  const [at, setAt] = useState({ contactId: 0, step: 0 });
  const [look, setLook] = useState<Look>("letter");
  const [settledContent] = useDebouncedValue(content, 180);
  const { data: lens, error } = useQuery(
    lensQuery({ content: settledContent, criteria, audienceId, campaignId, topicId, senderId, ...at }),
  );
  const problems = lens?.problems;
  useEffect(() => {
    if (problems) onProblems?.(problems);
  }, [problems, onProblems]);
  const here = lens?.contact_id ?? 0;
  const keys = useMemo(
    () => ({
      j: () => setAt({ contactId: here, step: 1 }),
      k: () => setAt({ contactId: here, step: -1 }),
    }),
    [here],
  );
  useKeys(keys);
  return (
    <aside className={classes.lens} aria-label="Lens">
      {children}
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {lens && lens.total === 0 && (
        <Trouble tone="held">Nobody is cleared here, so there is nobody to look at.</Trouble>
      )}
      {lens && lens.contact_id !== null && (
        <>
          <header className={classes.head}>
            <h2>
              <bdi>{lens.name || "No name"}</bdi>
            </h2>
            <span className="faint">
              {count(lens.place)} of {count(lens.total)} {lens.cleared ? "cleared" : "who opted in"}
            </span>
            <span className={classes.step}>
              <Button size="compact-xs" onClick={keys.k} aria-label="Previous person">
                <kbd>K</kbd>
              </Button>
              <Button size="compact-xs" onClick={keys.j} aria-label="Next person">
                <kbd>J</kbd>
              </Button>
            </span>
          </header>
          <div className="soft">{lens.address}</div>
          {!lens.cleared && (
            <Trouble tone="held">
              Nobody is cleared now; these had it already, or have had enough mail.
            </Trouble>
          )}
          {lens.problems.length > 0 ? (
            <div className={classes.faults}>
              <Diamond state="attention" />
              <span>
                The message cannot be composed yet: {lens.problems[0]?.problem.message}
                {lens.problems.length > 1 && ` And ${lens.problems.length - 1} more.`}
              </span>
            </div>
          ) : (
            <>
              <div className={classes.mailbox}>
                <b>{lens.from_name}</b>
                <div className={classes.subject}>{lens.subject}</div>
                <div className={classes.preheader}>{lens.preheader}</div>
              </div>
              {look === "text" ? (
                <pre className={classes.text}>{lens.text}</pre>
              ) : (
                <Letter
                  html={lens.html}
                  narrow={look === "telephone"}
                  dark={look === "dark"}
                  title={`Message to ${lens.name}`}
                />
              )}
              <SegmentedControl
                fullWidth
                aria-label="How to look at it"
                value={look}
                onChange={(next) => setLook(next as Look)}
                data={[
                  { value: "letter", label: "Letter" },
                  { value: "text", label: "Text" },
                  { value: "telephone", label: "Telephone" },
                  { value: "dark", label: "Dark" },
                ]}
              />
              <p className={`faint ${classes.legend}`}>
                <i className={classes.own} /> their own data <i className={classes.fallback} /> a fallback,
                since the field is blank
              </p>
              <May be="write">
                <TestSend
                  content={content}
                  messageId={messageId}
                  contactId={lens.contact_id}
                  name={lens.name || "this person"}
                  topicId={topicId}
                  senderId={senderId}
                  relayId={relayId}
                />
              </May>
            </>
          )}
        </>
      )}
    </aside>
  );
}
