import { XMLParser } from "fast-xml-parser";
import { type Raw, rawFromBytes, rawFromText } from "@/core/names/raw";

/** One resource of an answer to PROPFIND (RFC 4918, section 14.24), with the quota of RFC 4331 where it says one. */
export interface Resource {
  /** Its path on the server as bytes, without the last slash. */
  path: Raw;
  folder: boolean;
  /** Octets; undefined where the server does not say. */
  bytes?: number;
  free?: number;
  used?: number;
}

const parser = new XMLParser({
  removeNSPrefix: true,
  parseTagValue: false,
  ignoreAttributes: true,
  isArray: (name) => name === "response" || name === "propstat" || name === "href",
});

/** A number of octets; anything else counts as not said. */
function octets(value: unknown): number | undefined {
  if (typeof value !== "string" || !/^\d{1,16}$/.test(value.trim())) return undefined;
  const number = Number(value);
  return Number.isSafeInteger(number) ? number : undefined;
}

/**
 * Reads a multistatus body. Resources whose place cannot be told are left out. Undefined where the body is none: no XML, or
 * one that declares entities, which no answer needs.
 */
export function readMultistatus(body: Buffer, contentType: string | undefined): Resource[] | undefined {
  const text = decoded(body, contentType);
  if (text === undefined || /<!(DOCTYPE|ENTITY)/i.test(text)) return undefined;
  let parsed: unknown;
  try {
    parsed = parser.parse(text);
  } catch {
    return undefined;
  }
  const status = (parsed as { multistatus?: unknown } | undefined)?.multistatus;
  if (status === "") return [];
  if (typeof status !== "object" || status === null) return undefined;
  const found: Resource[] = [];
  for (const response of (status as { response?: unknown[] }).response ?? []) {
    if (typeof response !== "object" || response === null) continue;
    const { href, propstat } = response as { href?: unknown[]; propstat?: Record<string, unknown>[] };
    const path = typeof href?.[0] === "string" ? pathOfHref(href[0]) : undefined;
    const props = propstat?.find((one) => typeof one === "object" && /\s2\d\d(\s|$)/.test(String(one.status)))?.prop;
    if (path === undefined || typeof props !== "object" || props === null) continue;
    const prop = props as Record<string, unknown>;
    found.push({
      path,
      folder: typeof prop.resourcetype === "object" && prop.resourcetype !== null && "collection" in prop.resourcetype,
      bytes: octets(prop.getcontentlength),
      free: octets(prop["quota-available-bytes"]),
      used: octets(prop["quota-used-bytes"]),
    });
  }
  return found;
}

function decoded(body: Buffer, contentType: string | undefined): string | undefined {
  const head = body.subarray(0, 200).toString("latin1");
  const utf16 = (body[0] === 0xff && body[1] === 0xfe) || (body[0] === 0xfe && body[1] === 0xff);
  const label = utf16
    ? body[0] === 0xff
      ? "utf-16le"
      : "utf-16be"
    : (/charset="?([\w-]+)/i.exec(contentType ?? "")?.[1] ?? /encoding=["']([\w-]+)/i.exec(head)?.[1] ?? "utf-8");
  try {
    return new TextDecoder(label).decode(body);
  } catch {
    return undefined;
  }
}

/** The path of an href, which may be a path or a whole address, with anything between all and nothing of it escaped. */
export function pathOfHref(href: string): Raw | undefined {
  const trimmed = href.trim().replace(/^[a-z][a-z0-9+.-]*:\/\/[^/]*/i, "");
  if (!trimmed.startsWith("/")) return undefined;
  const path = trimmed.split(/[?#]/)[0]!.replace(/\/+$/, "");
  return unescaped(rawFromText(path));
}

const unescaped = (raw: Raw): Raw =>
  raw.replace(/%([0-9a-fA-F]{2})/g, (_, digits: string) => String.fromCharCode(Number.parseInt(digits, 16))) as Raw;

/** A path as it stands in a request: each byte that is not unreserved escaped (RFC 3986, section 2.3). */
export const escapedPath = (path: Raw): string =>
  path.replace(/[^A-Za-z0-9._~/-]/g, (c) => `%${c.charCodeAt(0).toString(16).toUpperCase().padStart(2, "0")}`);

/** The bytes of a path that an address names. */
export const pathOfAddress = (url: URL): Raw => unescaped(rawFromBytes(Buffer.from(url.pathname, "latin1")));
