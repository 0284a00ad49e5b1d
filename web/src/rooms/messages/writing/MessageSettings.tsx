import { MultiSelect, NativeSelect } from "@mantine/core";
import { memo } from "react";
import type { Schemas } from "../../../api";
import type { Content } from "../../../core/content";
import { withMainLanguage } from "../../../core/languages";

interface MessageSettingsProps {
  language: string;
  needed: Content["needed"];
  vocabulary: Schemas["Vocabulary"];
  onEdit: (change: (now: Content) => Content) => void;
}

/** In which language the main words are, and for whom they can be. */
export const MessageSettings = memo(function MessageSettings({
  language,
  needed,
  vocabulary,
  onEdit,
}: MessageSettingsProps) {
  const own = vocabulary.languages.find((one) => one.code === vocabulary.locale.slice(0, 2))?.name;
  return (
    <>
      <NativeSelect
        label="Language"
        description="Dates, amounts and the footer are written in it"
        value={language}
        data={[
          { value: "", label: `the organisation's${own ? `, ${own}` : ""}` },
          ...vocabulary.languages.map((one) => ({ value: one.code, label: one.name })),
        ]}
        onChange={({ currentTarget: { value } }) => onEdit((now) => withMainLanguage(now, value))}
      />
      <MultiSelect
        label="Required fields"
        description="Whoever lacks one of these is held by a gate and named there"
        placeholder={needed.length ? "" : "nothing in particular"}
        data={needable(vocabulary.fields, needed)}
        value={needed}
        searchable
        onChange={(next) => onEdit((now) => ({ ...now, needed: next }))}
      />
    </>
  );
});

/** The fields that can be asked for, besides the address that everybody has; one that is gone stays to be taken out. */
function needable(fields: Schemas["FieldView"][], needed: string[]) {
  const there = fields.filter((one) => one.key !== "address");
  const gone = needed.filter((key) => fields.length > 0 && !fields.some((one) => one.key === key));
  return [
    ...there.map((one) => ({ value: one.key, label: one.label })),
    ...gone.map((key) => ({ value: key, label: `${key}?` })),
  ];
}
