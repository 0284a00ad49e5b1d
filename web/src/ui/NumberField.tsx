import { TextInput, type TextInputProps } from "@mantine/core";
import { type KeyboardEvent, type ReactNode, useEffect, useRef, useState } from "react";
import { numberFault, readNumber } from "../core/numbers";
import { count } from "../core/words";

interface NumberFieldProps extends Omit<TextInputProps, "value" | "onChange" | "onBlur" | "error"> {
  /** The number as it stands; null: blank. */
  value: number | null;
  min?: number;
  max?: number;
  /** Whole numbers only. */
  whole?: boolean;
  /** A number that names something, such as a port: written without a sign for thousands. */
  plain?: boolean;
  error?: ReactNode;
  /** A number within its bounds. */
  onNumber: (next: number) => void;
  /** It was emptied; without this it cannot stay empty. */
  onBlank?: () => void;
}

/** A number that is told only when it is one within its bounds.
 *
 * What was typed otherwise stays as it is, with what is wrong below it, and keeps its form from being sent; Escape brings
 * back what holds. Arrows step by one.
 */
export function NumberField({
  value,
  min,
  max,
  whole = false,
  plain = false,
  error,
  onNumber,
  onBlank,
  ...rest
}: NumberFieldProps) {
  const shown = plain ? String : count;
  const box = useRef<HTMLInputElement>(null);
  const [typed, setTyped] = useState<string>();
  const [left, setLeft] = useState(false);
  const fault =
    typed === undefined || typed.trim() === "" ? undefined : numberFault(typed, { min, max, whole });
  // While somebody is still typing, "1" may become "12"; too much stays too much.
  const said = fault && (left || fault.startsWith("At most")) ? fault : undefined;
  useEffect(() => box.current?.setCustomValidity(fault ? `${fault}.` : ""), [fault]);
  function type(text: string) {
    setTyped(text);
    setLeft(false);
    if (text.trim() === "") onBlank?.();
    else if (!numberFault(text, { min, max, whole })) onNumber(Number(readNumber(text)));
  }
  function press(event: KeyboardEvent) {
    if (event.key === "Escape" && typed !== undefined && fault) {
      event.stopPropagation();
      setTyped(undefined);
    }
    if (event.key !== "ArrowUp" && event.key !== "ArrowDown") return;
    event.preventDefault();
    const from = Number(readNumber(typed ?? String(value ?? "")) ?? min ?? 0);
    const next = from + (event.key === "ArrowUp" ? 1 : -1);
    if (!numberFault(String(next), { min, max, whole })) type(String(next));
  }
  return (
    <TextInput
      {...rest}
      ref={box}
      inputMode={whole ? "numeric" : "decimal"}
      autoComplete="off"
      value={typed ?? (value === null ? "" : shown(value))}
      error={said ? `${said}${value === null ? "" : `; ${shown(value)} still holds`}` : error}
      onChange={(event) => type(event.currentTarget.value)}
      onKeyDown={press}
      onBlur={() => {
        setLeft(true);
        if (!fault) setTyped(undefined);
      }}
    />
  );
}
