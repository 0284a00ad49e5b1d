/** What the field picker offers: fields, parts of what is repeated, reckonings over lists, and what is provided. */
import type { components } from "../schema";

type Field = components["schemas"]["FieldView"];

export interface FieldOption {
  /** The inlays and words that are put in. */
  source: string;
  label: string;
  /** What kind of value it is, in words. */
  about: string;
  samples: string[];
  /** How many people have none; undefined where that is not counted. */
  blank?: number;
}

export interface Repeated {
  variable: string;
  listed: string;
}

/** What stands for words that are to be typed still; the checks know it. */
export const UNFINISHED = "…";

const TYPES: Record<string, string> = {
  text: "text",
  number: "number",
  money: "money",
  date: "date",
  date_time: "date and time",
  yes_no: "yes or no",
  choice: "choice",
  list: "list",
};

/** Everything that can be inserted, in the order in which it is offered: what is repeated here comes first. */
export function fieldOptions(
  fields: readonly Field[],
  provided: readonly string[],
  repeated?: Repeated,
): FieldOption[] {
  const list = fields.find((one) => one.key === repeated?.listed);
  return [
    ...(list?.parts ?? []).map((part) =>
      option(`${repeated?.variable}.${part.key}`, part.label, part.type, [], undefined),
    ),
    ...fields.flatMap((field) => [
      option(field.key, field.label, field.type, field.samples, field.blank),
      ...(field.type === "list" ? reckonings(field) : []),
    ]),
    ...provided.map((name) => option(name, name.replace(/[._]/g, " "), "", [], undefined)),
  ];
}

function option(
  key: string,
  label: string,
  type: string,
  samples: string[],
  blank: number | undefined,
): FieldOption {
  const about = TYPES[type] ?? "provided";
  const source =
    type === "yes_no"
      ? `@{if ${key}}${UNFINISHED}@{else}${UNFINISHED}@{end}`
      : blank
        ? `@{${key} else "${UNFINISHED}"}`
        : `@{${key}}`;
  return { source, label, about, samples, ...(blank === undefined ? {} : { blank }) };
}

function reckonings(list: Field): FieldOption[] {
  return [
    { source: `@{count(${list.key})}`, label: `how many ${list.label}`, about: "number", samples: [] },
    ...list.parts
      .filter((part) => part.type === "money" || part.type === "number")
      .map((part) => ({
        source: `@{sum(${list.key}.${part.key})}`,
        label: `sum of ${part.label} in ${list.label}`,
        about: TYPES[part.type] ?? "",
        samples: [],
      })),
  ];
}

/** Those that a search finds: by what they are called and by their key, those that begin with it first. */
export function foundOptions(options: readonly FieldOption[], search: string): FieldOption[] {
  const wanted = search.trim().toLowerCase();
  const begins = (one: FieldOption) =>
    one.label.toLowerCase().startsWith(wanted) || one.source.slice(2).toLowerCase().startsWith(wanted);
  const has = (one: FieldOption) => `${one.label} ${one.source}`.toLowerCase().includes(wanted);
  return [...options.filter(begins), ...options.filter((one) => !begins(one) && has(one))];
}

/** What names are called, also those of the parts of lists. */
export function labelsOf(fields: readonly Field[]): (key: string) => string | undefined {
  const labels = new Map(fields.map((one) => [one.key, one.label]));
  const parts = new Map(fields.flatMap((one) => one.parts.map((part) => [part.key, part.label] as const)));
  return (key) => labels.get(key) ?? (key.includes(".") ? parts.get(key.split(".")[1] ?? "") : undefined);
}

/** A name of its own for one record of a list: the first letter that no field is called. */
export function variableFor(listed: string, fields: readonly Field[]): string {
  const letter = /[a-z]/.exec(listed)?.[0] ?? "r";
  return fields.some((one) => one.key === letter) ? `${letter}1` : letter;
}
