import fs from "node:fs";
import http from "node:http";
import https from "node:https";
import type { AddressInfo, Socket } from "node:net";
import { type Fault, Faults, readFault } from "./faults";

/** What can be set while it runs. */
export interface CloudSettings {
  user: string;
  password: string;
  /** Bytes that it takes in all; null for no bound. */
  quota: number | null;
  /** Milliseconds before each answer. */
  latency: number;
  /** Bytes a second in each direction; null for no bound. */
  rate: number | null;
  /** Characters of an address, beyond which it answers that it is too long; null for no bound. */
  longest: number | null;
  /** It keeps names taken apart into letters and marks (Unicode, NFD), however they are written. */
  decomposes: boolean;
  /** As {@link readFault} reads them. */
  fail: string[];
  /** It does not answer at all. */
  down: boolean;
}

export const firstSettings: CloudSettings = {
  user: "station",
  password: "gannet",
  quota: null,
  latency: 0,
  rate: null,
  longest: null,
  decomposes: false,
  fail: [],
  down: false,
};

export interface Cloud {
  url: string;
  settings: CloudSettings;
  /** Changes how it behaves from the next request on. */
  set(change: Partial<CloudSettings>): void;
  /** How many requests of each method there were. */
  counts: Map<string, number>;
  /** Called before each request is answered. */
  before?: (method: string, url: string) => void;
  close(): Promise<void>;
}

/**
 * A small WebDAV server (RFC 4918, quota by RFC 4331) over a folder: a stand-in for a cloud, for the demo and the tests. It
 * keeps what it is sent as it is sent, an upload that broke off too, and can be told to fail in many ways.
 */
export async function openCloud(
  folder: string,
  options: { port?: number; settings?: Partial<CloudSettings>; tls?: { key: string; cert: string } } = {},
): Promise<Cloud> {
  fs.mkdirSync(folder, { recursive: true });
  const root = Buffer.from(fs.realpathSync(folder));
  const faults = new Faults();
  const sockets = new Set<Socket>();
  const settings: CloudSettings = { ...firstSettings };
  let used = bytesBelow(root);
  const cloud: Cloud = {
    url: "",
    settings,
    counts: new Map(),
    set(change) {
      Object.assign(settings, change);
      if (change.fail) faults.set(change.fail.flatMap((text) => readFault(text) ?? []));
    },
    close: () =>
      new Promise((done) => {
        server.close(() => done());
        for (const socket of sockets) socket.destroy();
      }),
  };
  cloud.set(options.settings ?? {});

  const answer = async (request: http.IncomingMessage, response: http.ServerResponse) => {
    const method = request.method ?? "";
    const target = request.url ?? "/";
    cloud.counts.set(method, (cloud.counts.get(method) ?? 0) + 1);
    cloud.before?.(method, target);
    if (settings.down) return void request.socket.destroy();
    if (settings.latency > 0) await wait(settings.latency);
    const say = (status: number, headers: http.OutgoingHttpHeaders = {}, body: string | Buffer = "") => {
      if (!request.complete) request.resume();
      response.writeHead(status, { "content-length": Buffer.byteLength(body), ...headers });
      response.end(body);
    };
    const expected = `Basic ${Buffer.from(`${settings.user}:${settings.password}`).toString("base64")}`;
    if (request.headers.authorization !== expected) return say(401, { "www-authenticate": 'Basic realm="station cloud"' });
    if (settings.longest !== null && target.length > settings.longest) return say(414);
    const fault = faults.next(method);
    if (typeof fault?.what === "number")
      return say(fault.what, fault.after === undefined ? {} : { "retry-after": String(fault.after) });
    if (fault?.what === "stall") return;
    if (fault?.what === "cut" && method !== "PUT" && method !== "GET") return void request.socket.destroy();
    if (fault?.what === "redirect") return say(302, { location: `http://127.0.0.2:1${target}` });
    if (fault?.what === "around") return say(302, { location: target });
    const place = placeOf(root, target, settings.decomposes);
    if (!place) return say(400);
    const stat = statOf(place);
    switch (method) {
      case "OPTIONS":
        return say(200, { dav: "1, 3", allow: "OPTIONS, GET, HEAD, PUT, DELETE, MKCOL, MOVE, PROPFIND" });
      case "PROPFIND": {
        request.resume();
        if (!stat) return say(404);
        if (fault?.what === "endless") return endless(response);
        const left = settings.quota === null ? undefined : Math.max(0, settings.quota - used);
        const body = listed(root, place, stat, request.headers.depth === "1", { left, used }, fault, request.headers.host ?? "");
        return say(207, { "content-type": "application/xml; charset=utf-8" }, body);
      }
      case "MKCOL":
        if (stat) return say(405);
        if (!statOf(parentOf(place))?.isDirectory()) return say(409);
        if (fault?.what !== "forget") fs.mkdirSync(place);
        return say(201);
      case "GET":
      case "HEAD":
        if (!stat || stat.isDirectory()) return say(stat ? 405 : 404);
        return give(method, place, stat, response, fault);
      case "PUT":
        return take(request, place, stat, fault, say);
      case "MOVE": {
        const destination = URL.canParse(String(request.headers.destination))
          ? placeOf(root, new URL(String(request.headers.destination)).pathname, settings.decomposes)
          : undefined;
        if (!stat) return say(404);
        if (!destination) return say(400);
        if (statOf(destination)) return say(412);
        if (fault?.what !== "forget") fs.renameSync(place, destination);
        return say(201);
      }
      case "DELETE":
        if (!stat) return say(404);
        if (fault?.what !== "forget") {
          fs.rmSync(place, { recursive: true });
          used = bytesBelow(root);
        }
        return say(204);
      default:
        return say(405);
    }
  };

  const paced = async (bytes: number) => {
    if (settings.rate !== null) await wait((bytes / settings.rate) * 1000);
  };

  async function give(
    method: string,
    place: Buffer,
    stat: fs.Stats,
    response: http.ServerResponse,
    fault: Fault | undefined,
  ): Promise<void> {
    const headers: http.OutgoingHttpHeaders = { "content-length": stat.size, "content-type": "application/octet-stream" };
    if (fault?.what === "packed") headers["content-encoding"] = "gzip";
    if (fault?.what === "endless") delete headers["content-length"];
    response.writeHead(200, headers);
    if (method === "HEAD") return void response.end();
    if (fault?.what === "endless") return endless(response, false);
    const file = fs.openSync(place, "r");
    const block = Buffer.alloc(1 << 16);
    const wrongAt = Math.floor(stat.size / 2);
    try {
      for (let at = 0; at < stat.size; ) {
        const got = fs.readSync(file, block, 0, block.length, at);
        if (got === 0) break;
        const part = Buffer.from(block.subarray(0, got));
        if (fault?.what === "flip" && wrongAt >= at && wrongAt < at + got) part[wrongAt - at]! ^= 1;
        if (fault?.what === "other") part.fill(0x78);
        if ((fault?.what === "cut" || fault?.what === "short") && at + got >= wrongAt) {
          response.write(part.subarray(0, Math.max(0, wrongAt - at)));
          // "short" ends as if that were all.
          response.socket?.[fault.what === "cut" ? "destroy" : "end"]();
          return;
        }
        await paced(got);
        if (!response.write(part)) await drained(response);
        if (response.destroyed) return;
        at += got;
      }
    } finally {
      fs.closeSync(file);
    }
    response.end();
  }

  async function take(
    request: http.IncomingMessage,
    place: Buffer,
    stat: fs.Stats | undefined,
    fault: Fault | undefined,
    say: (status: number) => void,
  ): Promise<void> {
    if (stat?.isDirectory()) return say(405);
    if (stat && request.headers["if-none-match"] === "*") return say(412);
    if (!statOf(parentOf(place))?.isDirectory()) return say(409);
    const length = Number(request.headers["content-length"] ?? 0);
    const full = () => settings.quota !== null && used + length - (stat?.size ?? 0) > settings.quota;
    if (full()) return say(507);
    used += length - (stat?.size ?? 0);
    const file = fault?.what === "forget" ? undefined : fs.openSync(place, "w");
    let got = 0;
    try {
      for await (const part of request) {
        const bytes = part as Buffer;
        await paced(bytes.length);
        const keep = Buffer.from(fault?.what === "short" ? bytes.subarray(0, Math.max(0, bytes.length - 1)) : bytes);
        if (fault?.what === "flip") keep[0]! ^= 1;
        if (file !== undefined) fs.writeSync(file, keep);
        got += bytes.length;
        if (fault?.what === "cut" && got >= length / 2) return void request.socket.destroy();
      }
    } catch {
      // Cut off by the other side; what came stays, as on many a server.
      return;
    } finally {
      if (file !== undefined) fs.closeSync(file);
      else used -= length;
    }
    if (fault?.what === "cut") return void request.socket.destroy();
    say(stat ? 204 : 201);
  }

  const listener: http.RequestListener = (request, response) => {
    answer(request, response).catch(() => {
      if (!response.headersSent) response.writeHead(500);
      response.end();
    });
  };
  const server = options.tls ? https.createServer(options.tls, listener) : http.createServer(listener);
  server.on("connection", (socket: Socket) => {
    sockets.add(socket);
    socket.once("close", () => sockets.delete(socket));
  });
  await new Promise<void>((ready, failed) => {
    server.once("error", failed);
    server.listen(options.port ?? 0, "127.0.0.1", ready);
  });
  const { port } = server.address() as AddressInfo;
  cloud.url = `${options.tls ? "https" : "http"}://127.0.0.1:${port}/`;
  return cloud;
}

/** Resolves once more can be written, or nothing ever will be. */
const drained = (response: http.ServerResponse) =>
  new Promise<void>((next) => {
    const over = () => {
      response.off("drain", over).off("close", over);
      next();
    };
    response.once("drain", over).once("close", over);
  });

const wait = (ms: number) => new Promise((next) => setTimeout(next, ms));

const parentOf = (place: Buffer): Buffer => place.subarray(0, place.lastIndexOf(0x2f));

const statOf = (place: Buffer): fs.Stats | undefined => fs.lstatSync(place, { throwIfNoEntry: false });

/** Where a request's path lies below the folder; undefined where it would lead out of it. */
function placeOf(root: Buffer, target: string, decomposes = false): Buffer | undefined {
  const raw = target
    .split(/[?#]/)[0]!
    .replace(/%([0-9a-fA-F]{2})/g, (_, digits: string) => String.fromCharCode(Number.parseInt(digits, 16)));
  const parts = raw.split("/").filter((part) => part !== "");
  if (parts.some((part) => part === "." || part === ".." || part.includes("\0"))) return undefined;
  const below = Buffer.from(parts.map((part) => `/${part}`).join(""), "latin1");
  return Buffer.concat([root, decomposes ? Buffer.from(below.toString("utf8").normalize("NFD")) : below]);
}

function bytesBelow(folder: Buffer): number {
  let sum = 0;
  for (const entry of fs.readdirSync(folder, { withFileTypes: true, encoding: "buffer" })) {
    const place = Buffer.concat([folder, Buffer.from("/"), entry.name as unknown as Buffer]);
    sum += entry.isDirectory() ? bytesBelow(place) : (statOf(place)?.size ?? 0);
  }
  return sum;
}

function endless(response: http.ServerResponse, head = true): void {
  if (head) response.writeHead(207, { "content-type": "application/xml" });
  const part = Buffer.from(`<d:multistatus xmlns:d="DAV:">${" ".repeat(1 << 16)}`);
  const more = () => {
    while (!response.destroyed && response.write(part));
    if (!response.destroyed) response.once("drain", more);
  };
  more();
}

function listed(
  root: Buffer,
  place: Buffer,
  stat: fs.Stats,
  below: boolean,
  quota: { left?: number; used: number },
  fault: Fault | undefined,
  host: string,
): string {
  const plain = fault?.what === "plain";
  const escaped = (at: Buffer, folder: boolean) => {
    const rel = at.subarray(root.length).toString("latin1");
    const path = plain
      ? Buffer.from(rel, "latin1")
          .toString("utf8")
          .replace(/[%?#]/g, (c) => `%${c.charCodeAt(0).toString(16)}`)
          .replace(/&/g, "&amp;")
          .replace(/</g, "&lt;")
      : rel.replace(/[^A-Za-z0-9._~/-]/g, (c) => `%${c.charCodeAt(0).toString(16).padStart(2, "0")}`);
    return `${fault?.what === "absolute" ? `http://${host}` : ""}${path}${folder ? "/" : ""}` || "/";
  };
  const one = (at: Buffer, of: fs.Stats) => {
    const folder = of.isDirectory();
    const props = folder
      ? `<d:resourcetype><d:collection/></d:resourcetype>${quota.left === undefined ? "" : `<d:quota-available-bytes>${quota.left}</d:quota-available-bytes>`}<d:quota-used-bytes>${quota.used}</d:quota-used-bytes>`
      : `<d:resourcetype/><d:getcontentlength>${of.size}</d:getcontentlength>`;
    return `<d:response><d:href>${escaped(at, folder)}</d:href><d:propstat><d:prop>${props}</d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>`;
  };
  const parts = [one(place, stat)];
  if (below && stat.isDirectory())
    for (const name of fs.readdirSync(place, { encoding: "buffer" })) {
      const at = Buffer.concat([place, Buffer.from("/"), name]);
      const of = statOf(at);
      if (of) parts.push(one(at, of));
    }
  if (fault?.what === "outside")
    for (const href of [
      "/../etc/passwd",
      "/a/../../b",
      "//127.0.0.2/else",
      `${escaped(place, true)}..%2fout`,
      `${escaped(place, true)}%2e%2e/`,
    ])
      parts.push(
        `<d:response><d:href>${href}</d:href><d:propstat><d:prop><d:getcontentlength>1</d:getcontentlength></d:prop><d:status>HTTP/1.1 200 OK</d:status></d:propstat></d:response>`,
      );
  const entities =
    fault?.what === "expanding"
      ? `<!DOCTYPE d [<!ENTITY a "aaaaaaaaaaaaaaaa">${[..."bcdefghij"].map((c, n) => `<!ENTITY ${c} "${`&${"abcdefghi"[n]};`.repeat(10)}">`).join("")}]>`
      : "";
  return `<?xml version="1.0" encoding="utf-8"?>${entities}<d:multistatus xmlns:d="DAV:">${parts.join("")}${entities ? "&j;" : ""}</d:multistatus>`;
}
