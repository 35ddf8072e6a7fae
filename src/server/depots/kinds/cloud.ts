import type { Readable } from "node:stream";
import { type Dispatcher, Pool } from "undici";
import { folderOf, isName, joinRaw, nameOf, type Raw, rawFromText, shownName, textOfRaw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Disk } from "../../disk/disk";
import type { Content } from "../../disk/tree";
import { bounded, type Capacity, type DepotAddress, type DepotStore, type NewContent, retried, type StoredEntry } from "../store";
import { escapedPath, pathOfAddress, type Resource, readMultistatus } from "./multistatus";
import { connector } from "./trust";

export type CloudAddress = DepotAddress & { kind: "cloud" };

const lanes = 8;
/** Without a byte in either direction for so long a request has failed. */
const patienceMs = Number(process.env.VUOTO_CLOUD_PATIENCE_MS) || 60_000;
/** A server may take its time to move a whole folder, or to take a large one away. */
const longMs = 10 * patienceMs;
const mostListed = 1 << 26;
const mostUnread = 1 << 20;
const mostRedirects = 3;
/** So much is held in memory; more is sent a block after the other. */
const mostAtOnce = 1 << 20;

const question = Buffer.from(
  '<?xml version="1.0" encoding="utf-8"?><propfind xmlns="DAV:"><prop><resourcetype/><getcontentlength/><quota-available-bytes/><quota-used-bytes/></prop></propfind>',
);

interface Asking {
  headers?: Record<string, string>;
  body?: Buffer | NewContent;
  long?: boolean;
  /** The path is a folder's: with its last slash, so that no server has to send us there. */
  folder?: boolean;
}

/**
 * A depot behind WebDAV (RFC 4918). Nothing that its server says is taken for what is: a file has arrived when it was read
 * back, and a name is ours when it was seen there. `signal` cuts short what is under way.
 */
export function cloudStore(address: CloudAddress, _disk: Disk, signal?: AbortSignal): DepotStore {
  const { title: place } = address;
  const url = new URL(address.url);
  const base = pathOfAddress(url).replace(/\/+$/, "") as Raw;
  let made: Pool | undefined;
  const pool = () => {
    made ??= new Pool(url.origin, {
      connections: lanes,
      pipelining: 1,
      connect: connector(place, address.pin),
      headersTimeout: patienceMs,
      bodyTimeout: patienceMs,
      keepAliveTimeout: 4000,
    });
    return made;
  };
  const at = (path: Raw): Raw => (path === "" ? base : joinRaw(base, path));
  /** The same as it is told of, by whatever form of its characters. */
  const told = (path: Raw): Raw => composed(at(path));
  const { signIn } = address;
  const authorization = signIn && `Basic ${Buffer.from(`${signIn.user}:${signIn.password}`).toString("base64")}`;

  const refused = (status: number, headers: Dispatcher.ResponseData["headers"]) =>
    status === 401 && !signIn ? new Problem("sign-in-needed", { place }) : problemOfStatus(status, headers, place);
  const failing = (detail: string) => new Problem("depot-failing", { place, detail });
  const said = async <T>(work: () => Promise<T>): Promise<T> => {
    try {
      return await work();
    } catch (error) {
      throw problemOf(error, place, signal);
    }
  };

  /** Asks again, where it comes to the same when it is asked twice. One request by itself: where each n-th fails, some are heard. */
  const steadily = <T>(work: () => Promise<T>): Promise<T> => retried(() => said(work), signal);

  async function ask(method: string, path: Raw, asking: Asking = {}): Promise<Dispatcher.ResponseData> {
    if (/(^|\/)\.\.?(\/|$)|\0/.test(path)) throw new Problem("out-of-bounds", { name: shownName(path) });
    let target = escapedPath(at(path)) + (asking.folder ? "/" : "");
    for (let hops = 0; ; hops++) {
      const answer = await once(method, target, asking);
      if (![301, 302, 303, 307, 308].includes(answer.statusCode)) return answer;
      await answer.body.dump();
      const to = answer.headers.location;
      const next = typeof to === "string" ? new URL(to, url.origin + target) : undefined;
      // What goes elsewhere would take the sign-in there; 303 asks for another method.
      if (!next || next.origin !== url.origin || answer.statusCode === 303 || hops === mostRedirects)
        throw new Problem("depot-refuses", { place, detail: `it points to another address (${answer.statusCode})` });
      target = next.pathname;
    }
  }

  async function once(method: string, path: string, { headers, body, long }: Asking): Promise<Dispatcher.ResponseData> {
    const idle = new AbortController();
    let timer: NodeJS.Timeout | undefined;
    const moved = () => {
      clearTimeout(timer);
      timer = setTimeout(() => idle.abort(failing("nothing moved for a while")), patienceMs);
    };
    const streamed = body !== undefined && !Buffer.isBuffer(body);
    let unread: unknown;
    const failed = (error: unknown) => {
      unread = error;
    };
    try {
      const options: Dispatcher.RequestOptions = {
        method: method as Dispatcher.HttpMethod,
        path,
        headers: {
          "user-agent": "Vuoto",
          ...(authorization === undefined ? {} : { authorization }),
          ...(streamed ? { "content-length": String(body.bytes) } : {}),
          ...headers,
        },
        // It takes what can be asked for block by block, too.
        body: streamed ? (ticking(body.content(), moved, failed) as unknown as Readable) : body,
        headersTimeout: long ? longMs : patienceMs,
        signal: AbortSignal.any([idle.signal, ...(signal ? [signal] : [])]),
      };
      return await pool().request(options);
    } catch (error) {
      // Where our own file cannot be read on, the connection is cut by us.
      throw unread ?? (idle.signal.aborted ? idle.signal.reason : error);
    } finally {
      clearTimeout(timer);
    }
  }

  /** The answer, where it is one of those that mean that it was done; a problem for any other. */
  async function expect(method: string, path: Raw, fine: number[], asking?: Asking): Promise<number> {
    const { statusCode, headers, body } = await ask(method, path, asking);
    await body.dump({ limit: mostUnread });
    if (fine.includes(statusCode)) return statusCode;
    throw refused(statusCode, headers);
  }

  const propfind = (path: Raw, depth: "0" | "1", folder: boolean): Promise<Resource[] | undefined> =>
    steadily(() => propfindOnce(path, depth, folder));

  async function propfindOnce(path: Raw, depth: "0" | "1", folder: boolean): Promise<Resource[] | undefined> {
    const headers = { depth, "content-type": "application/xml; charset=utf-8", "cache-control": "no-cache" };
    const answer = await ask("PROPFIND", path, { headers, body: question, folder });
    if (answer.statusCode !== 207) {
      await answer.body.dump({ limit: mostUnread });
      if (answer.statusCode === 404 || answer.statusCode === 410) return undefined;
      throw refused(answer.statusCode, answer.headers);
    }
    const parts: Buffer[] = [];
    let length = 0;
    for await (const part of answer.body) {
      length += (part as Buffer).length;
      if (length > mostListed) throw failing("its list does not end");
      parts.push(Buffer.from(part as Buffer));
    }
    const type = answer.headers["content-type"];
    const found = readMultistatus(Buffer.concat(parts), typeof type === "string" ? type : undefined);
    if (!found) throw failing("its list cannot be read");
    return found.map((one) => ({ ...one, path: composed(one.path) }));
  }

  const entryOf = ({ folder, bytes }: Resource, name: Raw): StoredEntry =>
    folder ? { name, type: "folder", bytes: 0 } : { name, type: "file", bytes: bytes ?? -1 };

  const stat = async (path: Raw): Promise<StoredEntry | undefined> => {
    const found = await propfind(path, "0", path === "");
    const itself = found?.find((one) => one.path === told(path));
    return itself && entryOf(itself, nameOf(path));
  };

  return {
    lanes,
    async reach() {
      const found = await propfind("" as Raw, "0", true);
      if (!found?.some((one) => one.folder && one.path === told("" as Raw)))
        throw new Problem("depot-gone", { place, detail: "there is no such folder" });
    },
    async capacity(): Promise<Capacity> {
      const itself = (await propfind("" as Raw, "0", true))?.find((one) => one.path === told("" as Raw));
      const { free, used } = itself ?? {};
      return { free, total: free === undefined || used === undefined ? undefined : free + used };
    },
    stat,
    async list(path) {
      const found = (await propfind(path, "1", true)) ?? [];
      const folder = told(path);
      // Whatever else it tells of is not in this folder.
      return found.flatMap((one) =>
        one.path !== folder && folderOf(one.path) === (folder === "" ? "/" : folder) && isName(nameOf(one.path))
          ? [entryOf(one, nameOf(one.path))]
          : [],
      );
    },
    async *read(path, most = Number.MAX_SAFE_INTEGER) {
      try {
        const headers = { "cache-control": "no-cache, no-store", pragma: "no-cache", "accept-encoding": "identity" };
        const answer = await ask("GET", path, { headers });
        const { statusCode } = answer;
        if (statusCode !== 200 || answer.headers["content-encoding"] !== undefined) {
          await answer.body.dump({ limit: mostUnread });
          if (statusCode === 404 || statusCode === 410) throw new Problem("vanished", { name: shownName(nameOf(path)) });
          throw statusCode === 200 ? failing("it sent it packed, which was not asked for") : refused(statusCode, answer.headers);
        }
        yield* bounded(answer.body as Content, path, most);
      } catch (error) {
        throw problemOf(error, place, signal);
      }
    },
    async makeFolder(path) {
      try {
        await steadily(() => expect("MKCOL", path, [201], { folder: true }));
      } catch (error) {
        // What is there already is answered in different ways.
        if ((await stat(path))?.type !== "folder") throw error;
      }
    },
    write: (path, { bytes, content }, { replaces } = {}) =>
      said(async () => {
        const headers = { ...(replaces ? {} : { "if-none-match": "*" }), "content-type": "application/octet-stream" };
        if (bytes > mostAtOnce) await expect("PUT", path, [200, 201, 204], { headers, body: { bytes, content } });
        else {
          const parts: Buffer[] = [];
          for await (const part of content()) parts.push(Buffer.from(part));
          const body = Buffer.concat(parts);
          if (body.length !== bytes) throw new Problem("changed", { name: shownName(nameOf(path)), detail: "while it was sent" });
          await expect("PUT", path, [200, 201, 204], { headers, body });
        }
      }),
    // It says when it has it, and is asked for all of it after that.
    settle: async () => {},
    async commit(part, bag) {
      const destination = `${url.origin}${escapedPath(at(bag))}/`;
      const move = { headers: { destination, overwrite: "F" }, folder: true, long: true };
      const isDone = async () => (await stat(bag))?.type === "folder" && !(await stat(part));
      try {
        await steadily(() => expect("MOVE", part, [200, 201, 204], move));
      } catch (error) {
        // It may have been done, and nothing was heard of it.
        if (!(await isDone())) throw error;
        return;
      }
      // One that copies leaves the other behind: who sent it takes that away, once this is known to be it.
      if ((await stat(bag))?.type !== "folder") throw failing("it said that the parcel has its name, and it has not");
    },
    async remove(path) {
      const there = await stat(path);
      if (!there) return;
      const folder = there.type === "folder";
      await steadily(() => expect("DELETE", path, [200, 202, 204, 404, 410], { folder, long: true }));
      if (await stat(path)) throw failing(`it said that ${shownName(nameOf(path))} is gone, and it is not`);
    },
    close: async () => made?.destroy(),
  };
}

/** In the form that names are sent in (Unicode, NFC): some servers keep, and tell of, another. What is no text is left. */
const composed = (path: Raw): Raw => {
  const text = textOfRaw(path);
  return text === undefined ? path : rawFromText(text.normalize("NFC"));
};

/** More than a socket holds back: a block that is larger was sent before the next one is asked for. */
const mostHeldBack = 1 << 16;

/** Hands on each block, as one that stays as it is until it was sent, and tells that something moves. */
async function* ticking(content: Content, moved: () => void, failed: (error: unknown) => void): Content {
  moved();
  const parts = content[Symbol.asyncIterator]();
  try {
    for (;;) {
      const part = await parts.next().catch((error: unknown) => {
        failed(error);
        throw error;
      });
      if (part.done) return;
      yield part.value.length > mostHeldBack ? part.value : Buffer.from(part.value);
      moved();
    }
  } finally {
    await parts.return?.();
  }
}

/** An answer that does not mean "done". */
function problemOfStatus(status: number, headers: Dispatcher.ResponseData["headers"], place: string): Problem {
  const after = headers["retry-after"];
  switch (status) {
    case 401:
      return new Problem("sign-in-refused", { place });
    case 412:
      return new Problem("name-taken", { place });
    case 414:
    case 431:
      return new Problem("path-too-long", { place });
    case 413:
    case 507:
      return new Problem("no-space", { place });
    case 408:
    case 423:
    case 425:
    case 429:
      return retryLater(new Problem("depot-failing", { place, detail: `it answers ${status}` }), after);
    default:
      return status >= 500
        ? retryLater(new Problem("depot-failing", { place, detail: `it answers ${status}` }), after)
        : new Problem("depot-refuses", { place, detail: `it answers ${status}` });
  }
}

/** Seconds, as RFC 9110 (section 10.2.3) has them; a date is not waited for to the second. */
function retryLater(problem: Problem, after: string | string[] | undefined): Problem {
  const seconds = typeof after === "string" && /^\d{1,5}$/.test(after) ? Number(after) : undefined;
  return seconds === undefined ? problem : new Problem(problem.code, { ...problem.facts, waitSeconds: seconds });
}

const unreachable = new Set([
  "ECONNREFUSED",
  "ENOTFOUND",
  "EAI_AGAIN",
  "EHOSTUNREACH",
  "ENETUNREACH",
  "ETIMEDOUT",
  "UND_ERR_CONNECT_TIMEOUT",
]);

/** What was thrown on the way to it. Never says what was sent. */
function problemOf(error: unknown, place: string, signal: AbortSignal | undefined): Problem {
  if (error instanceof Problem) return error;
  if (signal?.aborted) return new Problem("cancelled", { name: place });
  const code = error instanceof Error && "code" in error ? String(error.code) : "";
  if (unreachable.has(code))
    return new Problem("depot-gone", { place, detail: code === "ENOTFOUND" ? "its name is not known" : "it does not answer" });
  // Our own file is not as long as was said.
  if (code === "UND_ERR_REQ_CONTENT_LENGTH_MISMATCH")
    return new Problem("changed", { name: "A file", detail: "while it was sent" });
  return new Problem("depot-failing", { place, detail: reasons[code] ?? "the connection was cut" });
}

const reasons: Record<string, string> = {
  UND_ERR_HEADERS_TIMEOUT: "it did not answer in time",
  UND_ERR_BODY_TIMEOUT: "it stopped in the middle",
  UND_ERR_RES_CONTENT_LENGTH_MISMATCH: "it gave more or less than it said",
};
