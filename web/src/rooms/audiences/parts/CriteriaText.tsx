import { Combobox, Textarea, useCombobox } from "@mantine/core";
import { useDebouncedValue } from "@mantine/hooks";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
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
  const [at, setAt] = useState<number>();
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
  const combobox = useCombobox({ opened: open });
  // Where nothing of the word stands yet, Tab leads on and Enter does nothing, unless an option was walked to.
  const begun = data !== undefined && (at ?? 0) > data.start;
  const known = open ? options.map((one) => one.text).join("\n") : "";
  const { selectFirstOption, resetSelectedOption } = combobox;
  useEffect(() => {
    if (known && begun) selectFirstOption();
    else resetSelectedOption();
  }, [known, begun, selectFirstOption, resetSelectedOption]);
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
  }
  function put(option: string) {
    if (!data) return;
    const next = withOption(text, data, option);
    caret.current = next.at;
    onText(next.text);
    input.current?.focus();
  }
  function press(event: KeyboardEvent) {
    if (event.key === "Escape") {
      if (open) event.stopPropagation();
      setAt(undefined);
    } else if (event.key === "Tab" && !event.shiftKey && open && combobox.getSelectedOptionIndex() >= 0) {
      event.preventDefault();
      combobox.clickSelectedOption();
    }
  }
  return (
    <Combobox store={combobox} position="bottom-start" withinPortal={false} onOptionSubmit={put}>
      <Combobox.DropdownTarget>
        <div>
          <Combobox.EventsTarget withAriaAttributes>
            <Textarea
              ref={input}
              classNames={{ input: box ?? "" }}
              aria-label={label}
              aria-autocomplete="list"
              {...(placeholder ? { placeholder } : {})}
              autosize
              minRows={1}
              spellCheck={false}
              value={text}
              error={faulty}
              onChange={(event) => {
                onText(event.currentTarget.value.replace(/\n/g, " "));
                setAt(event.currentTarget.selectionStart);
              }}
              onKeyDown={press}
              onKeyUp={(event) => ["ArrowLeft", "ArrowRight", "Home", "End"].includes(event.key) && look()}
              onClick={look}
              onBlur={() => setAt(undefined)}
            />
          </Combobox.EventsTarget>
          {children}
        </div>
      </Combobox.DropdownTarget>
      <Combobox.Dropdown miw={320}>
        <Combobox.Options aria-label="What can stand here" mah={232} className={classes.options}>
          {options.map((option) => (
            <Combobox.Option key={option.text} value={option.text} className={classes.option}>
              <span className="mono">{option.text}</span>
              <span className="soft">{option.about}</span>
            </Combobox.Option>
          ))}
        </Combobox.Options>
      </Combobox.Dropdown>
    </Combobox>
  );
}
