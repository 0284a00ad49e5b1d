/** The generated client, with the session's CSRF token on every change. */
import createClient from "openapi-fetch";
import { ApiProblem, problemOf } from "./problems";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];

let csrfToken = "";

/** Remember the session's token; every change carries it. */
export function rememberCsrf(token: string): void {
  csrfToken = token;
}

const client = createClient<paths>({ fetch: (request) => globalThis.fetch(request) });

client.use({
  onRequest({ request }) {
    if (request.method !== "GET") request.headers.set("X-Uvarovite-CSRF", csrfToken);
    return request;
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
      "The file could not be sent: the server cannot be reached. Nothing was brought in.",
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
  const name = /filename="([^"]+)"/.exec(response.headers.get("Content-Disposition") ?? "")?.[1];
  const link = document.createElement("a");
  link.href = URL.createObjectURL(await response.blob());
  link.download = name ?? "contacts";
  link.click();
  URL.revokeObjectURL(link.href);
}
