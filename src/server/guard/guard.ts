import { createHash, randomBytes, timingSafeEqual } from "node:crypto";
import { Problem } from "@/core/problem";

/**
 * Who may speak to Vuoto. It can move every file a person owns, so a page that they visit must not be able to, nor
 * another user of the computer: only our own page, in a browser that was let in, or a command that can read the key.
 */
export interface Asked {
  method: string;
  headers: Pick<Headers, "get">;
}

/** The one address. Another user may listen at our port on `::1`, and so answer to `localhost`. */
export const hostName = "127.0.0.1";

export const port = () => process.env.VUOTO_PORT ?? "";

/** The page's own origin. */
const origin = () => `http://${hostName}:${port()}`;

/** Refuses a foreign Host, against DNS rebinding. */
export function checkHost({ headers }: Asked): void {
  if (headers.get("host") !== `${hostName}:${port()}`) throw new Problem("foreign-request");
}

/** Refuses what another page sent. */
function checkSender({ headers }: Asked): void {
  if (headers.get("origin") !== origin()) throw new Problem("foreign-request");
  const site = headers.get("sec-fetch-site");
  if (site !== null && site !== "same-origin") throw new Problem("foreign-request");
}

/** Refuses a change that was not asked for by our own page as JSON. */
export function checkOrigin(asked: Asked): void {
  checkSender(asked);
  if (!/^application\/json(;|$)/.test(asked.headers.get("content-type") ?? "")) throw new Problem("foreign-request");
}

/** Refuses a form that was not sent from our own page. */
export function checkForm(asked: Asked): void {
  checkSender(asked);
  if (!/^application\/x-www-form-urlencoded(;|$)/.test(asked.headers.get("content-type") ?? ""))
    throw new Problem("foreign-request");
}

const digest = (text: string) => createHash("sha256").update(text).digest();

/** The key that commands of the same user read from the key file. */
export function hasKey({ headers }: Asked): boolean {
  const key = process.env.VUOTO_KEY;
  const given = headers.get("x-vuoto-key");
  return !!key && given !== null && timingSafeEqual(digest(given), digest(key));
}

/** The cookie's name holds the data folder, whose record knows the session: cookies do not know about ports. */
export const cookieName = () =>
  `vuoto-${digest(process.env.VUOTO_DATA ?? "")
    .toString("hex")
    .slice(0, 12)}`;

/** The session's token that a browser sends, if it does. */
export function tokenIn({ headers }: Asked): string | undefined {
  const begin = `${cookieName()}=`;
  return (headers.get("cookie") ?? "")
    .split(/;\s*/)
    .find((part) => part.startsWith(begin))
    ?.slice(begin.length);
}

const cookieLives = 400 * 86_400;

/** The header by which a browser keeps its session; how long that lasts is told by the record. */
export const cookieFor = (token: string) => `${cookieName()}=${token}; Path=/; Max-Age=${cookieLives}; HttpOnly; SameSite=Strict`;

const linkLives = 10 * 60_000;
const held = globalThis as typeof globalThis & { vuotoLinks?: Map<string, number> };
const links = () => {
  held.vuotoLinks ??= new Map();
  return held.vuotoLinks;
};

/** A link that lets one browser in, once, within ten minutes. */
export function makeLink(now: number): string {
  for (const [link, until] of links()) if (until < now) links().delete(link);
  const link = randomBytes(24).toString("base64url");
  links().set(link, now + linkLives);
  return link;
}

/** Whether a link is one of ours, unused and not too old. Looking at it changes nothing. */
export const linkStands = (link: string, now: number): boolean => (links().get(link) ?? 0) >= now;

/** Uses a link up; answers whether it stood. */
export function useLink(link: string, now: number): boolean {
  const stood = linkStands(link, now);
  links().delete(link);
  return stood;
}

/** The content security policy of a page. Next's own scripts and styles carry the nonce. */
export function pagePolicy(nonce: string): string {
  return [
    "default-src 'none'",
    `script-src 'nonce-${nonce}' 'strict-dynamic'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data:",
    "media-src 'self'",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join("; ");
}
