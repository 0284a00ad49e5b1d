import { NativeSelect, TextInput } from "@mantine/core";
import { useEffect, useState } from "react";
import type { Schemas } from "../../../../api";
import { delimiterWords } from "../../../../core/imports";
import { Trouble } from "../../../../ui";
import type { ImportView } from "../../useImport";
import classes from "./FileForm.module.css";

const ENCODINGS = [
  "utf-8",
  "windows-1252",
  "iso-8859-1",
  "iso-8859-2",
  "windows-1250",
  "iso-8859-7",
  "windows-1253",
  "windows-1251",
  "shift_jis",
  "gb18030",
  "utf-16",
  "mac-roman",
];
const DELIMITERS = [",", ";", "\t", "|", "~", "^"];

interface FileFormProps {
  view: ImportView;
  onForm: (form: Schemas["FormChoice"]) => void;
}

/** How the file was read, each of it changeable. */
export function FileForm({ view, onForm }: FileFormProps) {
  const { form } = view;
  const [range, setRange] = useState(form.range ?? "");
  useEffect(() => setRange(form.range ?? ""), [form.range]);
  const other = form.delimiter && !DELIMITERS.includes(form.delimiter) ? [form.delimiter] : [];
  return (
    <section className={classes.form} aria-label="How the file is read">
      {form.kind === "workbook" && (
        <>
          <NativeSelect
            size="xs"
            label="Sheet"
            data={form.sheets ?? []}
            value={form.sheet ?? ""}
            onChange={(event) => onForm({ sheet: event.currentTarget.value, range: null })}
          />
          <TextInput
            size="xs"
            label="Range"
            value={range}
            onChange={(event) => setRange(event.currentTarget.value)}
            onBlur={() => range !== (form.range ?? "") && onForm({ range: range || null })}
            onKeyDown={(event) => event.key === "Enter" && onForm({ range: range || null })}
          />
        </>
      )}
      {form.kind !== "workbook" && (
        <NativeSelect
          size="xs"
          label="Encoding"
          data={ENCODINGS}
          value={form.encoding ?? "utf-8"}
          onChange={(event) => onForm({ encoding: event.currentTarget.value })}
        />
      )}
      {form.kind === "delimited" && (
        <>
          <NativeSelect
            size="xs"
            label="Columns are divided by"
            data={[...DELIMITERS, ...other].map((sign) => ({ value: sign, label: delimiterWords(sign) }))}
            value={form.delimiter ?? ","}
            onChange={(event) => onForm({ delimiter: event.currentTarget.value })}
          />
          <NativeSelect
            size="xs"
            label="Texts are quoted by"
            data={['"', "'"]}
            value={form.quote ?? '"'}
            onChange={(event) => onForm({ quote: event.currentTarget.value })}
          />
        </>
      )}
      <span className="soft">
        {form.kind === "workbook"
          ? "The first row of the range holds the column names."
          : form.kind === "vcard"
            ? "One person for each card."
            : "Found out from the file itself."}
      </span>
      {form.guessed && (
        <div className={classes.told}>
          <Trouble tone="held">
            This file is not written in UTF-8. If names look wrong below, choose another encoding.
          </Trouble>
        </div>
      )}
    </section>
  );
}
