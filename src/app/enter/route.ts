import { asProblem, Problem } from "@/core/problem";
import { theEngine } from "@/server/engine";
import { cookieName, mintSession, useLink } from "@/server/guard/guard";

const headers = { "referrer-policy": "no-referrer", "cache-control": "no-store" };

/** Lets a browser in by its one-time link, and on without it. The sample account needs no link. */
export async function GET(request: Request): Promise<Response> {
  try {
    const { account } = await theEngine();
    const query = new URL(request.url).searchParams;
    const link = query.get("link");
    const to = query.get("to") ?? "";
    if (link === null ? !account.sample : !useLink(link, Date.now()))
      throw new Problem(link === null ? "no-session" : "bad-link");
    return new Response(null, {
      status: 303,
      headers: {
        ...headers,
        location: /^\/(?!enter)[a-z]+(\?[a-z]+=[\w-]+)?$/.test(to) ? to : "/survey",
        "set-cookie": `${cookieName()}=${mintSession()}; Path=/; HttpOnly; SameSite=Strict`,
      },
    });
  } catch (error) {
    const problem = asProblem(error);
    return new Response(`${problem.title}\n${problem.remedy}\n`, {
      status: problem.status,
      headers: { ...headers, "content-type": "text/plain; charset=utf-8" },
    });
  }
}
