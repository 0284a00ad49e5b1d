/** What the server refuses, as RFC 9457 problem details. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
  ) {
    super(message);
  }
}

/** A problem from an answer's body; a body that is none is a fault of ours. */
export function problemOf(status: number, body: unknown): ApiProblem {
  if (body && typeof body === "object" && "code" in body && "detail" in body) {
    return new ApiProblem(status, String(body.code), String(body.detail));
  }
  return new ApiProblem(
    status,
    "fault",
    "Something went wrong on the server. Nothing was changed; its log says more.",
  );
}

/** Words for anything that was thrown. */
export function wordsOf(fault: unknown): string {
  return fault instanceof Error ? fault.message : String(fault);
}
