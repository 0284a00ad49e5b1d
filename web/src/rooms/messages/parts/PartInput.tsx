import { Button, Textarea } from "@mantine/core";
import type { SyntheticEvent } from "react";
import type { Schemas } from "../../../api";
import classes from "./PartInput.module.css";

export interface PartProps {
  /** Which part of the message: subject, blocks.0.text … */
  part: string;
  value: string;
  problems: Schemas["PartProblemView"][];
  /** That it is too long, in words. */
  tooLong: string | undefined;
  onFocus: () => void;
  onCaret: (from: number, to: number) => void;
  /** An @ was typed: a field is wanted. */
  onAt: () => void;
  onChange: (value: string) => void;
}

interface PartInputProps extends PartProps {
  label: string;
  placeholder?: string;
  strong?: boolean;
  code?: boolean;
}

/** One part of a message as text, with what is wrong right below it. */
export function PartInput(props: PartInputProps) {
  const { part, value, problems, label, placeholder, strong, code } = props;
  const caret = (event: SyntheticEvent<HTMLTextAreaElement>) => {
    const box = event.currentTarget;
    props.onCaret(box.selectionStart, box.selectionEnd);
  };
  return (
    <div className={classes.part}>
      <Textarea
        aria-label={label}
        label={part.startsWith("blocks") ? undefined : label}
        placeholder={placeholder}
        classNames={{ input: classes.input }}
        data-strong={strong || undefined}
        data-code={code || undefined}
        data-part={part}
        autosize
        minRows={1}
        value={value}
        error={props.tooLong ?? problems.length > 0}
        onFocus={props.onFocus}
        onSelect={caret}
        onBlur={caret}
        onChange={(event) => {
          const box = event.currentTarget;
          props.onChange(box.value);
          props.onCaret(box.selectionStart, box.selectionEnd);
          const at = box.selectionStart - 1;
          const typed = box.value.length === value.length + 1 && box.value[at] === "@";
          // Behind a word it is an e-mail address.
          if (typed && !/[\p{L}\p{N}._%+-]/u.test(box.value[at - 1] ?? "")) props.onAt();
        }}
      />
      {problems.map((one) => (
        <div key={`${one.problem.code} ${one.problem.start}`} className={classes.problem} role="alert">
          <span>
            {part.startsWith("blocks") && one.problem.line > 1 && `Line ${one.problem.line}: `}
            {one.problem.message}
          </span>
          {one.problem.suggestion && (
            <Button size="compact-xs" onClick={() => props.onChange(one.problem.suggestion ?? value)}>
              Use {one.problem.use}
            </Button>
          )}
        </div>
      ))}
    </div>
  );
}
