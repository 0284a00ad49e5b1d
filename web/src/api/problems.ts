/** What the server refuses, as RFC 9457 problem details. */
export class ApiProblem extends Error {
  constructor(
    readonly status: number,
    readonly code: string,
    message: string,
    /** Which of several values it is about. */
    readonly field = "",
    /** Of a conflict: how it stands now. */
    readonly theirs?: unknown,
  ) {
    super(message);
  }
}

/** A problem from an answer's body; a body that is none is a fault of ours. */
export function problemOf(status: number, body: unknown): ApiProblem {
  if (body && typeof body === "object" && "code" in body && "detail" in body) {
    const { field, theirs } = body as { field?: unknown; theirs?: unknown };
    return new ApiProblem(
      status,
      String(body.code),
      String(body.detail),
      typeof field === "string" ? field : "",
      theirs,
    );
  }
  return new ApiProblem(
    status,
    "fault",
    "Something went wrong on the server; its log says more. Look again before you repeat it.",
  );
}

/** Words for anything that was thrown. */
export function wordsOf(fault: unknown): string {
  return fault instanceof Error ? fault.message : String(fault);
}
