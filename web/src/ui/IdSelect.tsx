import { NativeSelect } from "@mantine/core";

interface IdSelectProps {
  label: string;
  /** Without a visible label the name is told to assistive technology only. */
  hideLabel?: boolean;
  value: number | null;
  /** What stands there while nothing is chosen. */
  empty: string;
  options: { id: number; words: string }[];
  onChange: (id: number | null) => void;
}

/** Choose one thing by its id, or none. */
export function IdSelect({ label, hideLabel = false, value, empty, options, onChange }: IdSelectProps) {
  return (
    <NativeSelect
      size="xs"
      {...(hideLabel ? { "aria-label": label } : { label })}
      value={value === null ? "" : String(value)}
      data={[
        { value: "", label: empty },
        ...options.map((one) => ({ value: String(one.id), label: one.words })),
      ]}
      onChange={(event) => onChange(Number(event.currentTarget.value) || null)}
    />
  );
}
