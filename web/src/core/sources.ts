/** A live source as it is edited, and the words for its pulls. */
import type { components } from "./schema";
import { count } from "./words";

export type Kind = "postgresql" | "mysql" | "sqlite";

export const KIND_WORDS: Record<Kind, string> = {
  sqlite: "SQLite file on the server",
  postgresql: "PostgreSQL",
  mysql: "MariaDB or MySQL",
};

export const USUAL_PORTS: Record<Kind, number | null> = { sqlite: null, postgresql: 5432, mysql: 3306 };

export interface SourceEdit {
  name: string;
  kind: Kind;
  host: string;
  port: number | null;
  database: string;
  username: string;
  /** null leaves the stored one. */
  password: string | null;
  tls: boolean;
  own: boolean;
  table: string;
  select: string;
  every: "" | "hour" | "day" | "week";
  at: string;
  weekday: number;
  before_runs: boolean;
  gone_tag: string;
}

interface Stored {
  id: number;
  name: string;
  kind: string;
  host: string;
  port: number;
  database: string;
  username: string;
  tls: boolean;
  table: string;
  select: string;
  schedule?: { every: string; at: string; weekday: number } | null;
  before_runs: boolean;
  gone_tag: string;
  revision: number;
}

/** What a new source begins with: the first file, where there is one. */
export function emptySource(files: readonly string[]): SourceEdit {
  return {
    name: "",
    kind: files.length > 0 ? "sqlite" : "postgresql",
    host: "",
    port: null,
    database: files[0] ?? "",
    username: "",
    password: null,
    tls: false,
    own: false,
    table: "",
    select: "",
    every: "",
    at: "05:00",
    weekday: 0,
    before_runs: false,
    gone_tag: "",
  };
}

/** A stored source as it is edited. */
export function sourceEdit(source: Stored): SourceEdit {
  const { name, host, database, username, tls, table, select, before_runs, gone_tag } = source;
  return {
    name,
    kind: source.kind as Kind,
    host,
    port: source.port || null,
    database,
    username,
    password: null,
    tls,
    own: select !== "",
    table,
    select,
    every: (source.schedule?.every ?? "") as SourceEdit["every"],
    at: source.schedule?.at ?? "05:00",
    weekday: source.schedule?.weekday ?? 0,
    before_runs,
    gone_tag,
  };
}

/** How the database is reached, for the server. */
export function accessBody(edit: SourceEdit, source: { id: number } | undefined) {
  const { kind, database, host, port, username, password, tls } = edit;
  return { kind, database, host, port, username, password, tls, source_id: source?.id ?? null };
}

/** The whole source, for the server. Only one of table and SELECT counts. */
export function sourceBody(edit: SourceEdit, source: { id: number; revision: number } | undefined) {
  return {
    name: edit.name,
    access: accessBody(edit, source),
    table: edit.own ? "" : edit.table,
    select: edit.own ? edit.select : "",
    schedule: edit.every ? { every: edit.every, at: edit.at, weekday: edit.weekday } : null,
    before_runs: edit.before_runs,
    gone_tag: edit.gone_tag,
    revision: source?.revision ?? null,
  };
}

export const CHANNEL_WORDS: Record<string, string> = {
  by_hand: "by hand",
  schedule: "by its schedule",
  before_run: "before a run",
};

/** What a pull found, in words: what differs in the source since the last one, then what became of it. */
export function pullWords(found: components["schemas"]["PullFound"]): string {
  const rows = `${count(found.rows)} rows`;
  if (found.since_new == null) return `${rows}; fetched for the first time`;
  const changes = [
    [found.since_new, "new"],
    [found.since_changed, "changed"],
    [found.gone, "gone"],
  ] as const;
  const said = changes.filter(([n]) => n).map(([n, what]) => `${count(n ?? 0)} ${what}`);
  return `${rows}; ${said.length > 0 ? `${said.join(", ")} since the last time` : "as the last time"}`;
}
