import { NativeSelect, Textarea, TextInput } from "@mantine/core";
import type { FieldShape } from "../../../../core/values";

export interface PlainInputProps {
  label: string;
  /** Without a visible label the name is told to assistive technology only. */
  hideLabel?: boolean;
  field: FieldShape;
  /** The value as the text that the server reads. */
  text: string;
  onText: (text: string) => void;
  autoFocus?: boolean;
}

/** An input for a value of any type but a list. */
export function PlainInput({
  label,
  hideLabel = false,
  field,
  text,
  onText,
  autoFocus = false,
}: PlainInputProps) {
  const named = {
    size: "xs" as const,
    ...(hideLabel ? { "aria-label": label } : { label }),
    autoFocus,
  };
  const change = (event: { currentTarget: { value: string } }) => onText(event.currentTarget.value);
  switch (field.type) {
    case "yes_no":
    case "choice": {
      const choices = field.type === "choice" ? field.choices : ["yes", "no"];
      const data = [{ value: "", label: "blank" }, ...choices.map((one) => ({ value: one, label: one }))];
      return <NativeSelect {...named} value={text} data={data} onChange={change} />;
    }
    case "date":
      return <TextInput {...named} type="date" value={text} onChange={change} />;
    case "date_time":
      return <TextInput {...named} placeholder="2026-05-31 14:30" value={text} onChange={change} />;
    case "number":
      return <TextInput {...named} inputMode="decimal" value={text} onChange={change} />;
    case "money":
      return (
        <TextInput
          {...named}
          inputMode="decimal"
          rightSection={<span className="faint">{field.currency}</span>}
          rightSectionWidth={44}
          value={text}
          onChange={change}
        />
      );
    default:
      return text.includes("\n") || text.length > 60 ? (
        <Textarea {...named} autosize minRows={2} value={text} onChange={change} />
      ) : (
        <TextInput {...named} value={text} onChange={change} />
      );
  }
}
