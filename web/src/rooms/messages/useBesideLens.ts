/** The words of a message with the lens beside them: what each tells the other, so that a keystroke draws only the words. */
import { useDebouncedCallback, useDebouncedValue } from "@mantine/hooks";
import { useCallback, useRef, useState } from "react";
import type { Draft, Schemas } from "../../api";
import type { Content } from "../../core/content";
import { same } from "../../core/drafts";
import type { MessageDoc } from "../../core/message";
import type { Caret, LetterPlace } from "../../ui";
import type { Wanted } from "./writing/Going";

/** So long after a keystroke the letter is asked for, in milliseconds: it is there within a tenth of a second. */
const SETTLED = 80;

export function useBesideLens(draft: Draft<MessageDoc>, first: Schemas["PartProblemView"][]) {
  const [problems, setProblems] = useState(first);
  const [person, setPerson] = useState(0);
  const [language, setLanguage] = useState("");
  const [wanted, setWanted] = useState<Wanted>();
  const [caret, setCaret] = useState<Caret>();
  const { content } = draft.doc;
  const [settled] = useDebouncedValue(content, SETTLED);
  const now = useRef(draft);
  now.current = draft;
  const current = useCallback(() => now.current.current().content, []);
  const onContent = useCallback(
    (next: Content) => now.current.edit({ ...now.current.current(), content: next }),
    [],
  );
  // Every answer is another list; most say what the one before it said.
  const onProblems = useCallback(
    (next: Schemas["PartProblemView"][]) => setProblems((was) => (same(was, next) ? was : next)),
    [],
  );
  const onCaret = useDebouncedCallback(setCaret, SETTLED);
  const onPlace = useCallback((place: LetterPlace, of: string) => setWanted({ place, language: of }), []);
  return {
    /** The language whose words are on screen. */
    language,
    words: { content, problems, contactId: person, wanted, onLanguage: setLanguage, onCaret, onContent },
    lens: { content: settled, current, caret, onProblems, onPerson: setPerson, onPlace },
  };
}
