import { Textarea } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, type ReactNode, useEffect, useId, useRef, useState } from "react";
import { client, take } from "../../../api";
import { withOption } from "../../../core/criteria";
import classes from "./CriteriaText.module.css";

interface CriteriaTextProps {
  label: string;
  text: string;
  faulty: boolean;
  placeholder?: string;
  /** The audience whose criteria they are; null for none yet. */
  audienceId: number | null;
  /** The class of the box, where it stands in another frame. */
  box?: string;
  onText: (text: string) => void;
  /** What is said below the box, such as a fault; options stand below that. */
  children?: ReactNode;
}

/** Criteria as text, completed while they are written: Tab or Enter takes an option, arrows choose, Esc closes. */
export function CriteriaText({
  label,
  text,
  faulty,
  placeholder,
  audienceId,
  box,
  onText,
  children,
}: CriteriaTextProps) {
  const input = useRef<HTMLTextAreaElement>(null);
  const list = useId();
  const [at, setAt] = useState<number>();
  const [chosen, setChosen] = useState(0);
  const [moved, setMoved] = useState(false);
  const caret = useRef<number>(undefined);
  const [asked] = useDebouncedValue({ text, at }, 90);
  const { data } = useQuery({
    queryKey: ["criteria", "complete", asked, audienceId],
    queryFn: ({ signal }) =>
      take(
        client.POST("/api/criteria/complete", {
          signal,
          body: { text: asked.text, at: asked.at ?? 0, audience_id: audienceId },
        }),
      ),
    enabled: asked.at !== undefined,
    placeholderData: keepPreviousData,
    staleTime: 10_000,
  });
  // Options belong to the very text that they were asked for.
  const fresh = at !== undefined && asked.text === text && asked.at === at;
  const options = fresh ? (data?.options ?? []) : [];
  const open = options.length > 0;
  const index = Math.min(chosen, options.length - 1);
  // After an option was taken the caret stands behind it.
  // biome-ignore lint/correctness/useExhaustiveDependencies: the caret is set once for each text
  useEffect(() => {
    if (caret.current === undefined) return;
    input.current?.setSelectionRange(caret.current, caret.current);
    setAt(caret.current);
    caret.current = undefined;
  }, [text]);
  function look() {
    const box = input.current;
    setAt(box && box.selectionStart === box.selectionEnd ? box.selectionStart : undefined);
    setChosen(0);
    setMoved(false);
  }
  function put(option: string) {
    if (!data) return;
    const next = withOption(text, data, option);
    caret.current = next.at;
    onText(next.text);
    setChosen(0);
    setMoved(false);
    input.current?.focus();
  }
  function press(event: KeyboardEvent) {
    if (event.key === "Escape") {
      if (open) event.stopPropagation();
      setAt(undefined);
      return;
    }
    if (!open) return;
    // Where nothing of the word stands yet, Tab leads on and Enter does nothing, unless an option was walked to.
    const begun = moved || (data !== undefined && (at ?? 0) > data.start);
    const option = options[index];
    if (event.key === "ArrowDown" || event.key === "ArrowUp") {
      event.preventDefault();
      const step = event.key === "ArrowDown" ? 1 : -1;
      setChosen((index + step + options.length) % options.length);
      setMoved(true);
    } else if ((event.key === "Tab" || event.key === "Enter") && option && begun && !event.shiftKey) {
      event.preventDefault();
      put(option.text);
    }
  }
  return (
    <div className={classes.text}>
      <Textarea
        ref={input}
        classNames={{ input: box ?? "" }}
        aria-label={label}
        aria-controls={list}
        aria-autocomplete="list"
        {...(open ? { "aria-activedescendant": `${list}-${index}` } : {})}
        {...(placeholder ? { placeholder } : {})}
        autosize
        minRows={1}
        spellCheck={false}
        value={text}
        error={faulty}
        onChange={(event) => {
          setMoved(false);
          onText(event.currentTarget.value.replace(/\n/g, " "));
          setAt(event.currentTarget.selectionStart);
          setChosen(0);
        }}
        onKeyDown={press}
        onKeyUp={(event) => ["ArrowLeft", "ArrowRight", "Home", "End"].includes(event.key) && look()}
        onClick={look}
        onBlur={() => setAt(undefined)}
      />
      {children}
      <div
        id={list}
        role="listbox"
        aria-label="What can stand here"
        className={classes.options}
        hidden={!open}
      >
        {options.map((option, place) => (
          <div
            key={option.text}
            id={`${list}-${place}`}
            role="option"
            tabIndex={-1}
            aria-selected={place === index}
            className={classes.option}
            // The box keeps the keyboard.
            onMouseDown={(event) => {
              event.preventDefault();
              put(option.text);
            }}
          >
            <span className="mono">{option.text}</span>
            <span className="soft">{option.about}</span>
          </div>
        ))}
      </div>
    </div>
  );
}
