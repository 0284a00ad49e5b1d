import { Button, Menu, SegmentedControl, Tooltip } from "@mantine/core";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { memo, type ReactNode, useCallback, useEffect, useMemo, useRef, useState } from "react";
import { fetchFile, May, type Schemas, wordsOf } from "../../../api";
import { sayBytes } from "../../../core/attachments";
import { type Content, isBlank } from "../../../core/message";
import { count } from "../../../core/words";
import { announce, type Caret, Diamond, Letter, type LetterPlace, Trouble, useKeys } from "../../../ui";
import { type LetterAsk, lensPersonQuery, lensQuery, letterBody, sourceQuery } from "../queries";
import classes from "./Lens.module.css";
import { TestSend } from "./TestSend";

interface LensProps {
  /** The words, once nobody has typed for a moment; the same words are the same object, which is what they are known by. */
  content: Content;
  /** The words as they are now, for what is sent and saved; `content` where they do not change. */
  current?: () => Content;
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
  poolId: number | null;
  /** What is wrong with the words, as they are on screen. */
  onProblems?: (problems: Schemas["PartProblemView"][]) => void;
  /** Who is looked at; 0 for nobody. */
  onPerson?: (contactId: number) => void;
  /** Where the caret is in the words. */
  caret?: Caret | undefined;
  /** What is the reader's own was clicked: where it stands, in the words of which language. */
  onPlace?: (place: LetterPlace, language: string) => void;
  /** Look at this person first, and whenever it is another one. */
  person?: number | undefined;
  children?: ReactNode;
}

const languageName = (code: string) => new Intl.DisplayNames(["en"], { type: "language" }).of(code);

type Look = "letter" | "text" | "telephone" | "dark" | "source";

/** The message as one real recipient would get it; J and K step through the cleared people. */
export const Lens = memo(function Lens({
  content,
  current,
  messageId,
  criteria,
  audienceId = null,
  campaignId = null,
  topicId,
  senderId,
  poolId,
  onProblems,
  onPerson,
  onPlace,
  caret,
  person,
  children,
}: LensProps) {
  const queries = useQueryClient();
  const [at, setAt] = useState({ contactId: person ?? 0, step: 0 });
  useEffect(() => {
    if (person) setAt({ contactId: person, step: 0 });
  }, [person]);
  const [look, setLook] = useState<Look>("letter");
  const whose = { criteria, audienceId, campaignId, topicId };
  const { data: seen, error: nobody } = useQuery(lensPersonQuery({ content, ...whose, ...at }));
  // So many steps from who was asked for: who stands next to them is known, and everybody is not looked at again.
  const [steps, setSteps] = useState({ from: seen, made: 0 });
  const made = steps.from === seen ? steps.made : 0;
  const here = personAt(seen, made) ?? 0;
  const {
    data: lens,
    error: noLetter,
    isPlaceholderData: isEarlier,
  } = useQuery({
    ...lensQuery({ content, contactId: here, topicId, senderId }),
    enabled: seen !== undefined,
  });
  const error = nobody ?? noLetter;
  const problems = lens?.problems;
  // What an empty sheet lacks is no fault of the first word on it, nor is an earlier answer one of what is there now.
  const blank = isBlank(content);
  useEffect(() => {
    if (problems && !isEarlier) onProblems?.(blank ? [] : problems);
  }, [problems, isEarlier, blank, onProblems]);
  useEffect(() => onPerson?.(here), [here, onPerson]);
  const now = useRef({ content, current, whose });
  now.current = { content, current, whose };
  const wordsNow = useCallback(() => now.current.current?.() ?? now.current.content, []);
  const go = useCallback(
    (step: 1 | -1) => {
      if (personAt(seen, made + step)) setSteps({ from: seen, made: made + step });
      else setAt({ contactId: here, step });
    },
    [seen, made, here],
  );
  const keys = useMemo(
    () => ({
      j: () => go(1),
      k: () => go(-1),
      w: async () => {
        const ask = { content: wordsNow(), ...now.current.whose, contactId: here, step: 1 };
        const found = await queries.fetchQuery(lensPersonQuery({ ...ask, fallbacks: true }));
        if (found.contact_id === null) announce("Nobody here reads a fallback.");
        else setAt({ contactId: found.contact_id, step: 0 });
      },
    }),
    [here, queries, wordsNow, go],
  );
  useKeys(keys);
  return (
    <aside className={classes.lens} aria-label="Lens">
      {children}
      {error && <Trouble>{wordsOf(error)}</Trouble>}
      {seen?.total === 0 && (
        <Trouble tone="held">Nobody is cleared here, so there is nobody to look at.</Trouble>
      )}
      {seen && lens && lens.contact_id !== null && (
        <>
          <header className={classes.head}>
            <h2>
              <bdi>{lens.name || "No name"}</bdi>
            </h2>
            <span className="faint">
              {count(seen.place + made)} of {count(seen.total)} {seen.cleared ? "cleared" : "who opted in"}
            </span>
            <Steps keys={keys} />
          </header>
          <div className="soft">
            {lens.address}
            {content.others.length > 0 &&
              lens.language &&
              ` · gets the words in ${languageName(lens.language)}`}
          </div>
          {!seen.cleared && (
            <Trouble tone="held">
              Nobody is cleared now; these had it already, or have had enough mail.
            </Trouble>
          )}
          {isBlank(content) ? (
            <p className="soft">
              Write a subject and some words: here they stand as {lens.name || "they"} will read them.
            </p>
          ) : lens.problems.length > 0 ? (
            <div className={classes.faults}>
              <Diamond state="attention" />
              <span>
                The message cannot be composed yet: {lens.problems[0]?.problem.message}
                {lens.problems.length > 1 && ` And ${lens.problems.length - 1} more.`}
              </span>
            </div>
          ) : (
            <>
              <div className={classes.mailbox} data-narrow={look === "telephone" || undefined}>
                <b>{lens.from_name}</b>
                <div className={classes.subject}>{lens.subject}</div>
                <div className={classes.preheader}>{lens.preheader}</div>
              </div>
              {look === "text" ? (
                <pre className={classes.text}>{lens.text}</pre>
              ) : look === "source" ? (
                <Source ask={{ content, contactId: lens.contact_id, topicId, senderId }} />
              ) : (
                <Letter
                  html={lens.html}
                  narrow={look === "telephone"}
                  dark={look === "dark"}
                  title={`Message to ${lens.name}`}
                  caret={caret}
                  onPlace={onPlace && ((place) => onPlace(place, lens.language))}
                />
              )}
              {lens.attached.length > 0 && (
                <ul className={classes.attached} aria-label="Attached">
                  {lens.attached.map((one) => (
                    <li key={one.name}>
                      <bdi>{one.name}</bdi>{" "}
                      <span className="faint">{one.size === null ? "PDF" : sayBytes(one.size)}</span>
                    </li>
                  ))}
                </ul>
              )}
              <Below
                look={look}
                onLook={setLook}
                wordsNow={wordsNow}
                messageId={messageId}
                contactId={lens.contact_id}
                topicId={topicId}
                senderId={senderId}
                poolId={poolId}
              />
            </>
          )}
        </>
      )}
    </aside>
  );
});

/** Who stands so many places behind somebody, or before; undefined where that is not known without another look. */
function personAt(seen: Schemas["LensPerson"] | undefined, steps: number): number | null | undefined {
  if (steps > 0) return seen?.behind[steps - 1];
  return steps < 0 ? seen?.before[-steps - 1] : seen?.contact_id;
}

/** To the people before and behind the one who is looked at. */
const Steps = memo(function Steps({ keys }: { keys: Record<"j" | "k" | "w", () => unknown> }) {
  return (
    <span className={classes.step}>
      <Button size="compact-xs" onClick={keys.k} aria-label="Previous person">
        <kbd>K</kbd>
      </Button>
      <Button size="compact-xs" onClick={keys.j} aria-label="Next person">
        <kbd>J</kbd>
      </Button>
      <Tooltip label="Next person who reads a fallback">
        <Button size="compact-xs" onClick={keys.w} aria-label="Next person who reads a fallback">
          <kbd>W</kbd>
        </Button>
      </Tooltip>
    </span>
  );
});

interface BelowProps {
  look: Look;
  onLook: (look: Look) => void;
  wordsNow: () => Content;
  messageId: number | null;
  contactId: number;
  topicId: number | null;
  senderId: number | null;
  poolId: number | null;
}

const LOOKS: { value: Look; label: string }[] = [
  { value: "letter", label: "Letter" },
  { value: "text", label: "Text" },
  { value: "telephone", label: "Telephone" },
  { value: "dark", label: "Dark" },
  { value: "source", label: "Source" },
];

/** What can be done with the letter; nothing of it depends on its words. */
const Below = memo(function Below({ look, onLook, wordsNow, messageId, ...whose }: BelowProps) {
  return (
    <>
      <SegmentedControl
        fullWidth
        className={classes.looks ?? ""}
        aria-label="How to look at it"
        value={look}
        onChange={(next) => onLook(next as Look)}
        data={LOOKS}
      />
      <p className={`faint ${classes.legend}`}>
        <i className={classes.own} /> their own data <i className={classes.fallback} /> a fallback, since the
        field is blank
      </p>
      <May be="hand_out">
        <SaveLetter ask={() => ({ content: wordsNow(), ...whose })} />
      </May>
      <May be="write">
        <TestSend wordsNow={wordsNow} messageId={messageId} {...whose} />
      </May>
    </>
  );
});

/** The letter as it goes over the wire. */
function Source({ ask }: { ask: LetterAsk }) {
  const { data, error } = useQuery(sourceQuery(ask));
  if (error) return <Trouble>{wordsOf(error)}</Trouble>;
  return (
    <pre className={classes.text} data-source>
      {data?.source ?? "…"}
    </pre>
  );
}

const FORMS = [
  ["html", "a page (.html)"],
  ["txt", "plain text (.txt)"],
  ["pdf", "a PDF (.pdf)"],
  ["eml", "a mail, with what is attached (.eml)"],
] as const;

/** This person's letter as a file; who saved it stands in the log. */
function SaveLetter({ ask }: { ask: () => LetterAsk }) {
  const save = useMutation({
    mutationFn: (form: string) => fetchFile(`/api/lens/file/${form}`, letterBody(ask())),
  });
  return (
    <div>
      <Menu position="bottom-start">
        <Menu.Target>
          <Button size="compact-xs" variant="subtle" loading={save.isPending}>
            Save this letter as …
          </Button>
        </Menu.Target>
        <Menu.Dropdown>
          {FORMS.map(([form, words]) => (
            <Menu.Item key={form} onClick={() => save.mutate(form)}>
              {words}
            </Menu.Item>
          ))}
        </Menu.Dropdown>
      </Menu>
      {save.error && <Trouble>{wordsOf(save.error)}</Trouble>}
    </div>
  );
}
