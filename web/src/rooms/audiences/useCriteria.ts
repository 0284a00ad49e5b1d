import { useDebouncedCallback } from "@mantine/hooks";
import { useCallback, useEffect, useRef, useState } from "react";
import { client, type Schemas, take, wordsOf } from "../../api";
import { asGroup, type Group, type Node } from "../../core/criteria";

type View = Schemas["CriteriaView"];

export interface Criteria {
  /** The criteria line as it stands in the box, with or without a fault. */
  text: string;
  /** The last tree that could be read, for the rows. */
  root: Group;
  view: View | undefined;
  /** What kept the server from answering, in words. */
  fault: string | undefined;
  /** True when the view belongs to the text on screen. */
  settled: boolean;
  /** The audience whose criteria they are; null for none yet. */
  audienceId: number | null;
  setText: (text: string) => void;
  setRoot: (root: Group) => void;
}

/** Criteria as text and as rows, two views of one tree. An answer to a superseded keystroke is dropped.
 *
 * `text` is whoever holds it to say; it is told what is typed, and what rows come to.
 */
export function useCriteria(
  text: string,
  onText: (text: string) => void,
  audienceId: number | null = null,
): Criteria {
  const [root, setRootOnly] = useState<Group>({ kind: "all", children: [] });
  const [view, setView] = useState<View>();
  const [fault, setFault] = useState<string>();
  const [settled, setSettled] = useState(false);
  const asked = useRef(0);
  const under = useRef<AbortController>(undefined);
  // What the view and the rows were made of, or are about to be.
  const known = useRef<string>(undefined);

  const read = useCallback(
    async (source: { text: string } | { tree: Node }) => {
      asked.current += 1;
      const mine = asked.current;
      under.current?.abort();
      const controller = new AbortController();
      under.current = controller;
      const { signal } = controller;
      try {
        const ask = (estimate: boolean) =>
          take(
            client.POST("/api/criteria", { body: { ...source, audience_id: audienceId, estimate }, signal }),
          );
        const next = await ask(true);
        if (mine !== asked.current) return;
        setView(next);
        setFault(undefined);
        setSettled(true);
        // Rows that are edited stay: a group of one condition is a group to them, and a mere condition to the text.
        if ("tree" in source) {
          known.current = next.text;
          onText(next.text);
        } else if (next.tree) setRootOnly(asGroup(next.tree));
        if (next.estimated) {
          const exact = await ask(false);
          if (mine === asked.current) setView(exact);
        }
      } catch (wrong) {
        if (mine === asked.current) setFault(wordsOf(wrong));
      }
      if (mine === asked.current) setSettled(true);
    },
    [audienceId, onText],
  );
  const readLater = useDebouncedCallback(read, 150);

  // The first text is read at once, and so is one that comes from elsewhere: thrown away, merged, another audience's.
  useEffect(() => {
    if (known.current === text) return;
    known.current = text;
    setSettled(false);
    read({ text });
  }, [text, read]);

  return {
    text,
    root,
    view,
    fault,
    settled,
    audienceId,
    setText: (next) => {
      known.current = next;
      asked.current += 1;
      setSettled(false);
      onText(next);
      readLater({ text: next });
    },
    setRoot: (next) => {
      setSettled(false);
      setRootOnly(next);
      read({ tree: next });
    },
  };
}
