/** Numbers and instants for people. */
const numbers = new Intl.NumberFormat("en-GB");

/** 3,420 */
export function count(value: number): string {
  return numbers.format(value);
}

/** "1 person", "3,420 people" */
export function people(value: number): string {
  return value === 1 ? "1 person" : `${count(value)} people`;
}

/** What is wrong with a text that is too long; undefined where nothing is. */
export function tooLong(text: string, most: number): string | undefined {
  const length = [...text].length;
  return length > most ? `At most ${count(most)} characters; ${count(length)} now` : undefined;
}

/** A share as whole percent that is 0 or 100 only when it is exactly that. */
export function percent(part: number, whole: number): string {
  if (whole <= 0) return "0 %";
  const share = (100 * part) / whole;
  if (part > 0 && share < 1) return "under 1 %";
  if (part < whole && share > 99) return "over 99 %";
  return `${Math.round(share)} %`;
}

/** "12 s", "5 min", "3 h 20 min", "2 d 4 h" */
export function duration(seconds: number): string {
  const whole = Math.max(0, Math.round(seconds));
  if (whole < 60) return `${whole} s`;
  const minutes = Math.round(whole / 60);
  if (minutes < 60) return `${minutes} min`;
  const hours = Math.floor(minutes / 60);
  if (hours < 24) return minutes % 60 ? `${hours} h ${minutes % 60} min` : `${hours} h`;
  return hours % 24 ? `${Math.floor(hours / 24)} d ${hours % 24} h` : `${Math.floor(hours / 24)} d`;
}

export interface Words {
  /** 14:20 */
  time: (iso: string) => string;
  /** 14:20:07 */
  seconds: (iso: string) => string;
  /** 12 Mar 2025 */
  day: (iso: string) => string;
  /** 14:20 today, "Wed 14:20" within a week, else "12 Mar 2025, 14:20" */
  moment: (iso: string, now?: Date) => string;
}

/** A browser takes long to begin to speak of a time zone, and everything that is drawn asks again. */
const spoken = new Map<string, Words>();

/** Instants as words in one time zone (an IANA name). */
export function instantWords(timeZone: string): Words {
  const known = spoken.get(timeZone) ?? wordsIn(timeZone);
  spoken.set(timeZone, known);
  return known;
}

function wordsIn(timeZone: string): Words {
  const part = (options: Intl.DateTimeFormatOptions) =>
    new Intl.DateTimeFormat("en-GB", { timeZone, ...options });
  const time = part({ hour: "2-digit", minute: "2-digit" });
  const seconds = part({ hour: "2-digit", minute: "2-digit", second: "2-digit" });
  const day = part({ day: "numeric", month: "short", year: "numeric" });
  const weekday = part({ weekday: "short" });
  const at = (iso: string) => new Date(iso);
  return {
    time: (iso) => time.format(at(iso)),
    seconds: (iso) => seconds.format(at(iso)),
    day: (iso) => day.format(at(iso)),
    moment: (iso, now = new Date()) => {
      const instant = at(iso);
      if (day.format(instant) === day.format(now)) return time.format(instant);
      const apart = Math.abs(instant.getTime() - now.getTime()) / 86_400_000;
      return apart < 6
        ? `${weekday.format(instant)} ${time.format(instant)}`
        : `${day.format(instant)}, ${time.format(instant)}`;
    },
  };
}

/** A stored value of a record, for a table or a panel. `first` is the part that names a list's records. */
export function fieldValue(value: unknown, type: string, first?: string): string {
  if (value === null || value === undefined) return "";
  if (type === "yes_no") return value ? "yes" : "no";
  if (type === "money" && typeof value === "object" && "amount" in value && "currency" in value) {
    return new Intl.NumberFormat("en-GB", { style: "currency", currency: String(value.currency) }).format(
      Number(value.amount),
    );
  }
  if (type === "number") return count(Number(value));
  if (type === "date") {
    return new Intl.DateTimeFormat("en-GB", {
      day: "numeric",
      month: "short",
      year: "numeric",
      timeZone: "UTC",
    }).format(new Date(`${value}T00:00:00Z`));
  }
  if (type === "date_time") {
    return new Intl.DateTimeFormat("en-GB", { dateStyle: "medium", timeStyle: "short" }).format(
      new Date(String(value)),
    );
  }
  if (type === "tags" && Array.isArray(value)) return value.join(", ");
  if (type === "list" && Array.isArray(value)) {
    const firsts = value.map((item: Record<string, unknown>) =>
      String((first ? item[first] : Object.values(item)[0]) ?? "?"),
    );
    return `${value.length}: ${firsts.join(", ")}`;
  }
  return String(value);
}
