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
export async function sendFile(path: string, file: File): Promise<Schemas["ImportView"]> {
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
  return body as Schemas["ImportView"];
}
