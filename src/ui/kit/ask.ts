import type { ApiAnswer, ApiInput, ApiPath } from "@/contract/api";
import { problemDetails } from "@/contract/items";

/** What the server said was wrong, in words for the person. */
export class AskProblem extends Error {
  constructor(
    readonly code: string,
    readonly title: string,
    readonly remedy: string,
  ) {
    super(`${title} ${remedy}`);
  }
}

/** Asks the server for an act or a question. Throws {@link AskProblem}. `signal`: once nobody waits for the answer any more. */
export async function ask<P extends ApiPath>(path: P, input: ApiInput<P>, signal?: AbortSignal): Promise<ApiAnswer<P>> {
  let response: Response;
  try {
    response = await fetch(`/api/${path}`, {
      method: "POST",
      headers: { "content-type": "application/json" },
      body: JSON.stringify(input),
      signal,
    });
  } catch {
    throw new AskProblem(
      "no-answer",
      "Vuoto does not answer.",
      "It may have been stopped. Start it again; what was done is in the ledger.",
    );
  }
  const body: unknown = await response.json().catch(() => undefined);
  if (response.ok) return body as ApiAnswer<P>;
  const details = problemDetails.safeParse(body);
  if (details.success) throw new AskProblem(details.data.code, details.data.title, details.data.remedy);
  throw new AskProblem("unexpected", "Something unexpected went wrong.", "What was done is in the ledger.");
}
