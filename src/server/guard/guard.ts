import { createHmac, randomBytes, timingSafeEqual } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { Problem } from "@/core/problem";

/**
 * Who may speak to Vuoto. It can move every file a person owns, so a page that they visit must not be able to, nor
 * another user of the computer: only our own page, in a browser that was let in, or a command that can read the key.
 */
export interface Asked {
  method: string;
  headers: Headers;
}

const loopback = ["127.0.0.1", "localhost", "[::1]"];

export const port = () => process.env.VUOTO_PORT ?? "";

/** The page's own origins. */
const origins = () => loopback.map((host) => `http://${host}:${port()}`);

/** Refuses a foreign Host, against DNS rebinding. */
export function checkHost({ headers }: Asked): void {
  if (!loopback.some((host) => headers.get("host") === `${host}:${port()}`)) throw new Problem("foreign-request");
}

/** Refuses a change that was not asked for by our own page as JSON. */
export function checkOrigin({ headers }: Asked): void {
  if (!origins().includes(headers.get("origin") ?? "")) throw new Problem("foreign-request");
  const site = headers.get("sec-fetch-site");
  if (site !== null && site !== "same-origin") throw new Problem("foreign-request");
  if (!/^application\/json(;|$)/.test(headers.get("content-type") ?? "")) throw new Problem("foreign-request");
}

const equal = (a: string, b: string) => a.length === b.length && timingSafeEqual(Buffer.from(a), Buffer.from(b));

/** The key that commands of the same user read from the key file. */
export function hasKey({ headers }: Asked): boolean {
  const key = process.env.VUOTO_KEY;
  const given = headers.get("x-vuoto-key");
  return !!key && given !== null && equal(given, key);
}

const held = globalThis as typeof globalThis & { vuotoSecret?: Buffer; vuotoLinks?: Map<string, number> };

function secret(): Buffer {
  if (held.vuotoSecret) return held.vuotoSecret;
  const file = path.join(process.env.VUOTO_DATA ?? "", "secret");
  try {
    held.vuotoSecret = fs.readFileSync(file);
  } catch {
    held.vuotoSecret = randomBytes(32);
    fs.writeFileSync(file, held.vuotoSecret, { mode: 0o600 });
  }
  return held.vuotoSecret;
}

const sign = (nonce: string) => createHmac("sha256", secret()).update(`session:${nonce}`).digest("base64url");

/** The cookie's name holds port and account: cookies do not know about ports. */
export function cookieName(): string {
  const account = createHmac("sha256", "account")
    .update(process.env.VUOTO_ACCOUNT ?? "")
    .digest("hex")
    .slice(0, 8);
  return `vuoto-${port()}-${account}`;
}

export function mintSession(): string {
  const nonce = randomBytes(24).toString("base64url");
  return `${nonce}.${sign(nonce)}`;
}

export function hasSession({ headers }: Asked): boolean {
  const name = cookieName();
  for (const part of (headers.get("cookie") ?? "").split(/;\s*/)) {
    const at = part.indexOf("=");
    if (part.slice(0, at) !== name) continue;
    const [nonce, signature] = part.slice(at + 1).split(".");
    if (nonce && signature && equal(signature, sign(nonce))) return true;
  }
  return false;
}

const linkLives = 10 * 60_000;
const links = () => {
  held.vuotoLinks ??= new Map();
  return held.vuotoLinks;
};

/** A link that lets one browser in, once, within ten minutes. */
export function makeLink(now: number): string {
  const link = randomBytes(24).toString("base64url");
  links().set(link, now + linkLives);
  return link;
}

/** Whether a link is one of ours and unused; it is used up by asking. */
export function useLink(link: string, now: number): boolean {
  const until = links().get(link);
  links().delete(link);
  return until !== undefined && until >= now;
}

/** The content security policy of a page. Next's own scripts and styles carry the nonce. */
export function pagePolicy(nonce: string): string {
  return [
    "default-src 'none'",
    `script-src 'nonce-${nonce}' 'strict-dynamic'`,
    `style-src 'self' 'nonce-${nonce}'`,
    "style-src-attr 'unsafe-inline'",
    "img-src 'self' data:",
    "font-src 'self'",
    "connect-src 'self'",
    "worker-src 'self'",
    "form-action 'self'",
    "base-uri 'none'",
    "frame-ancestors 'none'",
  ].join("; ");
}
