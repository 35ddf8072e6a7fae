import { randomBytes } from "node:crypto";
import { type NextRequest, NextResponse } from "next/server";
import { asProblem } from "@/core/problem";
import { letIn } from "@/server/guard/answer";
import { checkHost, hostName, pagePolicy, port } from "@/server/guard/guard";

const closed = "default-src 'none'; frame-ancestors 'none'";

/**
 * Every page passes here: Host first, then the session, and the policy for what is answered. The handlers below /api check
 * all of it themselves, and what they answer has its policy from next.config.ts.
 */
export async function proxy(request: NextRequest): Promise<NextResponse> {
  const { pathname, search } = request.nextUrl;
  const open = pathname === "/enter" || pathname === "/icon.svg";
  try {
    checkHost(request);
    if (!open) await letIn(request, "question");
  } catch (error) {
    const problem = asProblem(error);
    if (problem.code === "no-session") {
      const enter = new URL("/enter", `http://${hostName}:${port()}`);
      enter.searchParams.set("to", pathname + search);
      return NextResponse.redirect(enter, { headers: { "content-security-policy": closed } });
    }
    // The page itself says why the account could not be opened.
    if (problem.code === "foreign-request")
      return new NextResponse(`${problem.title}\n${problem.remedy}\n`, {
        status: problem.status,
        headers: { "content-type": "text/plain; charset=utf-8", "content-security-policy": closed },
      });
  }
  const nonce = randomBytes(16).toString("base64");
  const policy = pagePolicy(nonce);
  const headers = new Headers(request.headers);
  headers.set("x-nonce", nonce);
  headers.set("content-security-policy", policy);
  const response = NextResponse.next({ request: { headers } });
  response.headers.set("content-security-policy", policy);
  response.headers.set("x-content-type-options", "nosniff");
  // A form sent from a page without a referrer has no origin either.
  response.headers.set("referrer-policy", pathname === "/enter" ? "same-origin" : "no-referrer");
  response.headers.set("cross-origin-opener-policy", "same-origin");
  response.headers.set("cross-origin-resource-policy", "same-origin");
  return response;
}

export const config = { matcher: ["/((?!_next/static|api/).*)"] };
