import { NumberInput, type NumberInputProps } from "@mantine/core";
import { useState } from "react";

interface NumberFieldProps extends Omit<NumberInputProps, "value" | "onChange" | "onBlur" | "clampBehavior"> {
  /** The number as it stands; null: blank. */
  value: number | string | null;
  /** A number within `min` and `max`, also as the text that was typed. */
  onNumber: (next: number, text: string) => void;
  /** It was emptied; without this it cannot stay empty. */
  onBlank?: () => void;
}

/** A number that is told only when it is one: while “-” or nothing stands there, the old one holds. */
export function NumberField({ value, onNumber, onBlank, min, max, ...rest }: NumberFieldProps) {
  const [typed, setTyped] = useState<string | number>();
  const within = (next: number) => Math.min(Number(max ?? next), Math.max(Number(min ?? next), next));
  const isNumber = (text: string) => /^-?\d+(\.\d+)?$/.test(text);
  return (
    <NumberInput
      {...rest}
      {...(min === undefined ? {} : { min })}
      {...(max === undefined ? {} : { max })}
      clampBehavior="none"
      value={typed ?? value ?? ""}
      onChange={(next) => {
        setTyped(next);
        const text = String(next);
        if (text === "") onBlank?.();
        else if (isNumber(text) && within(Number(text)) === Number(text)) onNumber(Number(text), text);
      }}
      onBlur={() => {
        const text = String(typed ?? "");
        setTyped(undefined);
        if (isNumber(text) && within(Number(text)) !== Number(text)) {
          onNumber(within(Number(text)), String(within(Number(text))));
        }
      }}
    />
  );
}
