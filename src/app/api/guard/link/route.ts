import { Problem } from "@/core/problem";
import { checkHost, hasKey, makeLink } from "@/server/guard/guard";
import { problemAnswer } from "@/server/guard/problem-answer";

/** A fresh one-time link, for a command that can read the key file. */
export async function POST(request: Request): Promise<Response> {
  try {
    checkHost(request);
    if (!hasKey(request)) throw new Problem("no-session");
    return Response.json({ link: makeLink(Date.now()) });
  } catch (error) {
    return problemAnswer(error);
  }
}
