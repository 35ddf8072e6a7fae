import type { ProblemDetails } from "@/contract/items";
import { asProblem, type Problem } from "@/core/problem";

/** A problem as problem details (RFC 9457). */
export function detailsOf({ code, title, status, message, remedy }: Problem): ProblemDetails {
  return { type: `urn:vuoto:problem:${code}`, title, status, detail: message, code, remedy };
}

/** The same as the answer to a request. */
export function problemAnswer(thrown: unknown): Response {
  const problem = asProblem(thrown);
  return Response.json(detailsOf(problem), {
    status: problem.status,
    headers: {
      "content-type": "application/problem+json",
      "cache-control": "no-store",
      // What was not read of it still comes: nothing else can be asked over that connection.
      ...(problem.code === "too-large" ? { connection: "close" } : {}),
    },
  });
}
