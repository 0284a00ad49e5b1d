/** Text with inlays, cut into the author's own words and inlays, as the merge language cuts it.
 *
 * A text that is cut and put together again is the same text, whatever it was: what cannot be read stays words.
 */

/** A stretch of the author's own words, or an inlay from its `@{` to its `}`. */
export interface Piece {
  text: string;
  inlay: boolean;
}

const OPENING = /@(@?)\{/g;
const INSIDE = /(?:[^}"\n]|"(?:[^"\\\n]|\\.)*")*\}/y;

export function piecesOf(source: string): Piece[] {
  const out: Piece[] = [];
  let words = 0;
  OPENING.lastIndex = 0;
  for (let found = OPENING.exec(source); found; found = OPENING.exec(source)) {
    if (found[1]) continue;
    INSIDE.lastIndex = OPENING.lastIndex;
    // Behind an inlay that is not closed nothing can be read; so it is on the server.
    if (!INSIDE.test(source)) break;
    if (found.index > words) out.push({ text: source.slice(words, found.index), inlay: false });
    out.push({ text: source.slice(found.index, INSIDE.lastIndex), inlay: true });
    words = INSIDE.lastIndex;
    OPENING.lastIndex = words;
  }
  if (words < source.length) out.push({ text: source.slice(words), inlay: false });
  return out;
}

/** What an inlay does: it inserts a value, it begins, divides or ends what is for some only, or it is never sent. */
export type Role = "insert" | "if" | "elif" | "else" | "each" | "end" | "use" | "note";

/** An inlay as it is shown and changed. `value` is what stands behind its first word, or what is inserted. */
export interface Inlay {
  role: Role;
  value: string;
  /** The format behind `as` and its pattern; "" for none. */
  format: string;
  pattern: string;
  /** What stands in where the value is blank; undefined for nothing. */
  fallback: string | undefined;
}

const TEXT = String.raw`"((?:[^"\\]|\\.)*)"`;
const TAIL = new RegExp(String.raw`^([^]*?)(?:\s+as\s+(\w+)(?:\s+${TEXT})?)?(?:\s+else\s+${TEXT})?\s*$`);

export function readInlay(source: string): Inlay {
  const inside = source.slice(2, -1).trim();
  const plain = { format: "", pattern: "", fallback: undefined };
  if (inside.startsWith("#")) return { ...plain, role: "note", value: inside.slice(1).trim() };
  const word = /^\w+/.exec(inside)?.[0] ?? "";
  if (["if", "elif", "else", "each", "end", "use"].includes(word)) {
    return { ...plain, role: word as Role, value: inside.slice(word.length).trim() };
  }
  const [, value, format, pattern, fallback] = TAIL.exec(inside) ?? [];
  return {
    role: "insert",
    value: (value ?? inside).trim(),
    format: format ?? "",
    pattern: bare(pattern ?? ""),
    fallback: fallback === undefined ? undefined : bare(fallback),
  };
}

/** The text of an inlay; what it was read from, but for spaces. */
export function writeInlay(inlay: Inlay): string {
  const { role, value, format, pattern, fallback } = inlay;
  if (role === "note") return `@{# ${value.replace(/[}"\n]/g, " ").trim()} }`;
  if (role !== "insert") return `@{${[role, value].filter(Boolean).join(" ")}}`;
  const as = format ? ` as ${format}${pattern ? ` ${quoted(pattern)}` : ""}` : "";
  return `@{${value}${as}${fallback === undefined ? "" : ` else ${quoted(fallback)}`}}`;
}

const bare = (text: string) => text.replace(/\\(.)/gs, "$1");

const quoted = (text: string) =>
  `"${text.replace(/[\\"]/g, (sign) => `\\${sign}`).replace(/\s*\n\s*/g, " ")}"`;

/** What names are called: "First name" for first_name. */
export type LabelOf = (key: string) => string | undefined;

/** What a chip says: in whose words it is told what the inlay does. */
export function chipWords(inlay: Inlay, labelOf: LabelOf): { main: string; aside: string } {
  const { role, value, format, fallback } = inlay;
  switch (role) {
    case "if":
      return { main: "only for", aside: value };
    case "elif":
      return { main: "else for", aside: value };
    case "else":
      return { main: "else", aside: "" };
    case "end":
      return { main: "end", aside: "" };
    case "note":
      return { main: "note", aside: value };
    case "use":
      return { main: "shared", aside: value.replace(/^"|"$/g, "") };
    case "each": {
      const [, listed] = /\bin\s+([\w.]+)/.exec(value) ?? [];
      return { main: "for each of", aside: labelOf(listed ?? "") ?? value };
    }
    default:
      return {
        main: valueWords(value, labelOf),
        aside: fallback !== undefined ? `else ${fallback}` : format && format !== "text" ? format : "",
      };
  }
}

function valueWords(value: string, labelOf: LabelOf): string {
  const [, call, of] = /^(count|sum)\(\s*([\w.]+)\s*\)$/.exec(value) ?? [];
  if (call === "count") return `how many ${labelOf(of ?? "") ?? of}`;
  if (call === "sum") return `sum of ${labelOf(of ?? "") ?? of}`;
  if (value === "postal_address()") return "postal address";
  return labelOf(value) ?? value;
}

/** A text as somebody might read it, on one line: fallbacks, and the names of values that have none. */
export function sayPlainly(source: string): string {
  return piecesOf(source)
    .map((piece) => {
      if (!piece.inlay) return piece.text;
      const inlay = readInlay(piece.text);
      return inlay.role === "insert" ? (inlay.fallback ?? `‹${inlay.value.replace(/_/g, " ")}›`) : "";
    })
    .join("");
}

/** A marker without its partner: one that opens and never ends, or divides or ends nothing. Their places in order. */
export function unpaired(roles: readonly Role[]): number[] {
  const open: number[][] = [];
  const lone: number[] = [];
  roles.forEach((role, at) => {
    if (role === "if" || role === "each") open.push([at]);
    else if (role === "elif" || role === "else") (open.at(-1) ?? lone).push(at);
    else if (role === "end" && !open.pop()) lone.push(at);
  });
  return [...lone, ...open.flat()].sort((one, other) => one - other);
}
