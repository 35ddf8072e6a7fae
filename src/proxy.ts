import { randomBytes } from "node:crypto";
import { type NextRequest, NextResponse } from "next/server";
import { asProblem } from "@/core/problem";
import { checkHost, hasSession, pagePolicy } from "@/server/guard/guard";

const closed = "default-src 'none'; frame-ancestors 'none'";

/** Every request passes here: Host first, then the session for pages, and the policy for what is answered. */
export function proxy(request: NextRequest): NextResponse {
  try {
    checkHost(request);
  } catch (error) {
    const problem = asProblem(error);
    return new NextResponse(`${problem.title}\n`, {
      status: problem.status,
      headers: { "content-type": "text/plain; charset=utf-8", "content-security-policy": closed },
    });
  }
  const { pathname } = request.nextUrl;
  if (pathname.startsWith("/api/")) {
    // The handlers check the rest themselves.
    const response = NextResponse.next();
    response.headers.set("content-security-policy", `${closed}; sandbox`);
    response.headers.set("x-content-type-options", "nosniff");
    return response;
  }
  if (!hasSession(request) && pathname !== "/enter" && pathname !== "/icon.svg") {
    const enter = new URL("/enter", `http://${request.headers.get("host")}`);
    enter.searchParams.set("to", pathname + request.nextUrl.search);
    return NextResponse.redirect(enter, {
      headers: { "content-security-policy": closed },
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
  response.headers.set("referrer-policy", "no-referrer");
  response.headers.set("cross-origin-opener-policy", "same-origin");
  response.headers.set("cross-origin-resource-policy", "same-origin");
  return response;
}

export const config = { matcher: ["/((?!_next/static).*)"] };
