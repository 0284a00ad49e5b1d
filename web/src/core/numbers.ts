/** Numbers as people type them, in the way in which the application writes them: 1,000.5 */

const GROUPED = /^-?\d{1,3}([,\u00a0\u202f ])\d{3}(\1\d{3})*(\.\d+)?$/;
const PLAIN = /^-?\d+(\.\d+)?$|^-?\.\d+$/;
const SIGNS: Record<string, string> = { EUR: "€", GBP: "£", USD: "$" };

/** A typed number as plain digits ("1,000" is "1000"); undefined for what is none, or could be another one ("1,5"). */
export function readNumber(text: string): string | undefined {
  const typed = text.trim().replace("−", "-");
  if (PLAIN.test(typed)) return typed.replace(/^(-?)\./, "$10.");
  if (!GROUPED.test(typed)) return undefined;
  return typed.replace(/[,\u00a0\u202f ]/g, "");
}

/** A typed amount of a currency, with or without its sign or code. */
export function readAmount(text: string, currency: string): string | undefined {
  let bare = text.trim();
  for (const mark of [currency, SIGNS[currency] ?? currency]) {
    if (bare.startsWith(mark)) bare = bare.slice(mark.length);
    else if (bare.endsWith(mark)) bare = bare.slice(0, -mark.length);
  }
  return readNumber(bare);
}

export interface Bounds {
  min?: number | undefined;
  max?: number | undefined;
  /** Whole numbers only. */
  whole?: boolean;
}

/** What is wrong with a typed number, in words; undefined where nothing is. */
export function numberFault(text: string, { min, max, whole }: Bounds): string | undefined {
  const read = readNumber(text);
  if (read === undefined) {
    return /^\s*-?\d+,\d+\s*$/.test(text)
      ? `Write ${text.trim().replace(",", ".")} or ${text.trim().replace(",", "")}: a comma stands before thousands`
      : "Has to be a number";
  }
  const value = Number(read);
  if (whole && !Number.isInteger(value)) return "Has to be a whole number";
  if (min !== undefined && value < min) return `At least ${written(min)}`;
  if (max !== undefined && value > max) return `At most ${written(max)}`;
  return undefined;
}

function written(value: number): string {
  return value.toLocaleString("en-GB", { maximumFractionDigits: 9 });
}
