import type { ApiPath } from "@/contract/api";
import { Problem } from "@/core/problem";
import { onBehalfOf } from "../actor";
import type { Engine } from "../engine";
import { theEngine } from "../opening";
import { operate } from "../operations";
import { sharingNow } from "../quiet/sharing";
import { readJson } from "./body";
import { checkHost, checkOrigin, hasKey, tokenIn } from "./guard";
import { problemAnswer } from "./problem-answer";
import { findSession } from "./sessions";
import { expectUnnamed, unnamedAnswer, unnamedProblem } from "./unnamed";

/**
 * Lets in what may come in; throws otherwise. A question needs the cookie or the key, a change our own page as well.
 * Answers the session, where it is one.
 */
export async function letIn(request: Request, kind: "question" | "act"): Promise<{ engine: Engine; session?: string }> {
  checkHost(request);
  if (hasKey(request)) return { engine: await theEngine() };
  if (kind === "act") checkOrigin(request);
  const token = tokenIn(request);
  if (!token) throw new Problem("no-session");
  const engine = await theEngine();
  const session = findSession(engine.db, engine.now(), token);
  if (!session) throw new Problem("no-session");
  return { engine, session };
}

/** The POST handler of an act or question. */
export function answer(path: ApiPath): (request: Request) => Promise<Response> {
  return async (request) => {
    // Whether the screen is shared is asked again once it is done: it may have begun with this.
    let unnamed = () => false;
    try {
      const { engine, session } = await letIn(request, "act");
      if (session !== undefined) unnamed = () => sharingNow(engine) !== undefined;
      const before = unnamed();
      if (before) expectUnnamed(path);
      const input = await readJson(request.body, Number(request.headers.get("content-length") ?? 0));
      const actor = session === undefined ? "command" : "window";
      const done = (await onBehalfOf(actor, () => operate(engine, path, input), request.signal)) ?? null;
      return Response.json(before || unnamed() ? unnamedAnswer(path, done) : done, { headers: { "cache-control": "no-store" } });
    } catch (error) {
      return problemAnswer(unnamed() ? unnamedProblem(error) : error);
    }
  };
}

/** The GET handler of something that is looked at: a picture, a text, the stream of events. `unnamed`: it knows when to name nothing. */
export function look(
  work: (engine: Engine, query: URLSearchParams, request: Request, session?: string) => Promise<Response> | Response,
  { unnamed }: { unnamed?: true } = {},
): (request: Request) => Promise<Response> {
  return async (request) => {
    try {
      const { engine, session } = await letIn(request, "question");
      if (!unnamed && session !== undefined && sharingNow(engine)) throw new Problem("sharing");
      return await work(engine, new URL(request.url).searchParams, request, session);
    } catch (error) {
      return problemAnswer(error);
    }
  };
}
