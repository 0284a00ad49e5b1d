/** The generated client, with the session's CSRF token and a key of its own on every change. */
import createClient from "openapi-fetch";
import type { components, paths } from "../core/schema";
import { Keys } from "./once";
import { ApiProblem, problemOf } from "./problems";

export type Schemas = components["schemas"];

let csrfToken = "";

/** Remember the session's token; every change carries it. */
export function rememberCsrf(token: string): void {
  csrfToken = token;
}

const KEY = "Idempotency-Key";
// `crypto.randomUUID` is there on secure pages alone.
const keys = new Keys(() =>
  [...crypto.getRandomValues(new Uint8Array(16))].map((one) => one.toString(16).padStart(2, "0")).join(""),
);

const inFlight = new Map<string, Promise<Response>>();

/** A change that is on its way already is waited for, not sent again: both who asked get its answer. */
function send(request: Request): Promise<Response> {
  const key = request.headers.get(KEY);
  if (!key) return globalThis.fetch(request);
  const sent = inFlight.get(key) ?? globalThis.fetch(request).finally(() => inFlight.delete(key));
  inFlight.set(key, sent);
  return sent.then((answer) => answer.clone());
}

const client = createClient<paths>({ fetch: send });

client.use({
  async onRequest({ request }) {
    if (request.method === "GET") return request;
    request.headers.set("X-Uvarovite-CSRF", csrfToken);
    const { pathname } = new URL(request.url);
    const key = keys.keyFor(request.method, pathname, await request.clone().text());
    if (key) request.headers.set(KEY, key);
    return request;
  },
  onResponse({ request }) {
    keys.answered(request.headers.get(KEY) ?? "");
  },
  onError({ request }) {
    keys.lost(request.headers.get(KEY) ?? "");
  },
});

export { client };

interface Answer<T> {
  data?: T;
  error?: unknown;
  response: Response;
}

/** The data of an answer. Throws ApiProblem with words for people. */
export async function take<T>(asked: Promise<Answer<T>>): Promise<T> {
  let answer: Answer<T>;
  try {
    answer = await asked;
  } catch {
    throw new ApiProblem(
      0,
      "unreachable",
      "The server cannot be reached. Nothing was changed; try again in a moment.",
    );
  }
  if (!answer.response.ok) throw problemOf(answer.response.status, answer.error);
  return answer.data as T;
}

/** Send a file with a form; the generated client has no words for that. */
export async function sendFile<T>(path: string, file: File): Promise<T> {
  const form = new FormData();
  form.append("file", file);
  let response: Response;
  try {
    response = await fetch(path, { method: "POST", body: form, headers: { "X-Uvarovite-CSRF": csrfToken } });
  } catch {
    throw new ApiProblem(
      0,
      "unreachable",
      "The file could not be sent: the server cannot be reached. Nothing was imported.",
    );
  }
  const body: unknown = await response.json();
  if (!response.ok) throw problemOf(response.status, body);
  return body as T;
}

/** Ask for a file by a POST and hand it to the browser to keep. */
export async function fetchFile(path: string, body: unknown): Promise<void> {
  const response = await fetch(path, {
    method: "POST",
    body: JSON.stringify(body),
    headers: { "X-Uvarovite-CSRF": csrfToken, "Content-Type": "application/json" },
  });
  if (!response.ok) throw problemOf(response.status, await response.json());
  const told = response.headers.get("Content-Disposition") ?? "";
  const encoded = /filename\*=utf-8''([^;]+)/.exec(told)?.[1];
  const name = encoded ? decodeURIComponent(encoded) : /filename="([^"]+)"/.exec(told)?.[1];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name ?? "contacts";
  link.click();
  URL.revokeObjectURL(link.href);
}
