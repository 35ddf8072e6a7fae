import { asProblem, Problem } from "@/core/problem";
import { theEngine } from "../opening";
import { checkForm, checkHost, cookieFor, tokenIn, useLink } from "./guard";
import { findSession, makeSession } from "./sessions";

const headers = { "referrer-policy": "no-referrer", "cache-control": "no-store" };
const mostBytes = 4096;

/** The views, by their path, that a browser may be led on to once it is in. */
const isView = (to: string) => /^\/(?!enter|api)[a-z]+(\?[a-z]+=[\w-]+)?$/.test(to);

/** Lets a browser in by the button on its one-time link, which is used up by that, and leads on to a view. */
export async function enter(request: Request): Promise<Response> {
  try {
    checkHost(request);
    checkForm(request);
    if (Number(request.headers.get("content-length") ?? Number.POSITIVE_INFINITY) > mostBytes) throw new Problem("too-large");
    const form = new URLSearchParams(await request.text());
    const engine = await theEngine();
    const now = engine.now();
    if (!useLink(form.get("link") ?? "", now)) throw new Problem("bad-link");
    const token = tokenIn(request);
    const known = token !== undefined && findSession(engine.db, now, token) !== undefined;
    const cookie = known ? token : makeSession(engine.db, now, request.headers.get("user-agent") ?? "");
    const to = form.get("to") ?? "";
    return new Response(null, {
      status: 303,
      headers: { ...headers, location: isView(to) ? to : "/survey", "set-cookie": cookieFor(cookie) },
    });
  } catch (error) {
    const problem = asProblem(error);
    return new Response(`${problem.title}\n${problem.remedy}\n`, {
      status: problem.status,
      headers: { ...headers, "content-type": "text/plain; charset=utf-8" },
    });
  }
}
