import { execFileSync } from "node:child_process";
import fs from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Raw, rawFromText } from "@/core/names/raw";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { realCalls } from "../../disk/calls";
import { Disk } from "../../disk/disk";
import { contentOf, type DepotStore, readSteadily, readWhole } from "../store";
import { type CloudAddress, cloudStore } from "./cloud";
import { pathOfHref, readMultistatus } from "./multistatus";

let folder: string;
let ends: (() => Promise<void>)[];
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-cloud-")));
  ends = [];
});
afterEach(async () => {
  for (const end of ends.reverse()) await end();
  fs.rmSync(folder, { recursive: true, force: true });
});

const disk = new Disk(realCalls, () => () => false);
const raw = rawFromText;
const top = "" as Raw;

function storeFor(cloud: Cloud, more: Partial<CloudAddress> = {}): DepotStore {
  const { user, password } = cloud.settings;
  const store = cloudStore({ kind: "cloud", title: "Cloud", url: cloud.url, signIn: { user, password }, ...more }, disk);
  ends.push(() => store.close());
  return store;
}

async function openHere(options: Parameters<typeof openCloud>[1] = {}): Promise<Cloud> {
  const cloud = await openCloud(path.join(folder, "cloud"), options);
  ends.push(cloud.close);
  return cloud;
}

/** A server that answers each request as it is told, and notes what came. */
async function serve(
  answer: http.RequestListener,
): Promise<{ url: string; seen: { method: string; url: string; signedIn: boolean }[] }> {
  const seen: { method: string; url: string; signedIn: boolean }[] = [];
  const server = http.createServer((request, response) => {
    seen.push({ method: request.method!, url: request.url!, signedIn: request.headers.authorization !== undefined });
    answer(request, response);
  });
  await new Promise<void>((ready) => server.listen(0, "127.0.0.1", ready));
  ends.push(async () => {
    server.closeAllConnections();
    server.close();
  });
  return { url: `http://127.0.0.1:${(server.address() as AddressInfo).port}/dav/`, seen };
}

describe("redirects", () => {
  const signIn = { user: "station", password: "gannet" };
  const open = (url: string) => {
    const store = cloudStore({ kind: "cloud", title: "Cloud", url, signIn }, disk);
    ends.push(() => store.close());
    return store;
  };

  test("are followed to the same host and port, three at most, with the same method", async () => {
    let left = 3;
    const { url, seen } = await serve((request, response) => {
      if (left-- > 0) response.writeHead(307, { location: `${request.url}x` }).end();
      else response.writeHead(200).end("here");
    });
    expect((await collected(open(url), "a")).toString()).toBe("here");
    expect(seen.map(({ method }) => method)).toEqual(["GET", "GET", "GET", "GET"]);
    left = 4;
    await expect(collected(open(url), "a")).rejects.toMatchObject({ code: "depot-refuses" });
  });

  test.each([
    ["another port", (port: number) => `http://127.0.0.1:${port}/dav/a`],
    ["another scheme", (_: number, own: string) => own.replace("http:", "https:")],
    ["another host", (_: number, own: string) => own.replace("127.0.0.1", "127.0.0.2")],
    ["no place at all", () => ""],
  ])("to %s are not, and nobody there hears of the sign-in", async (_what, to) => {
    const other = await serve((_request, response) => response.writeHead(200).end("elsewhere"));
    const port = Number(new URL(other.url).port);
    const { url, seen } = await serve((_request, response) => {
      response.writeHead(302, { location: to(port, url) }).end();
    });
    for (const work of [
      () => collected(open(url), "a"),
      () => open(url).list(top),
      () => open(url).write(raw("a"), contentOf("mine")),
    ])
      await expect(work()).rejects.toMatchObject({ code: "depot-refuses" });
    expect(other.seen).toEqual([]);
    // Nor is what was pointed to asked for here; no place at all is the same one, which is asked three times more.
    expect(seen).toHaveLength(to(port, url) === "" ? 12 : 3);
  });

  test("with another method are not", async () => {
    const { url, seen } = await serve((_request, response) => response.writeHead(303, { location: "/dav/b" }).end());
    await expect(open(url).write(raw("a"), contentOf("mine"))).rejects.toMatchObject({ code: "depot-refuses" });
    expect(seen.map(({ method }) => method)).toEqual(["PUT"]);
  });
});

async function collected(store: DepotStore, at: string): Promise<Buffer> {
  const parts: Buffer[] = [];
  for await (const part of store.read(raw(at))) parts.push(Buffer.from(part));
  return Buffer.concat(parts);
}

describe("who is spoken to", () => {
  /** A certificate for a name, and who vouches for it; made by OpenSSL. */
  function certificate(name: string, days = "30"): { key: string; cert: string } {
    const at = (file: string) => path.join(folder, `${name}-${file}`);
    const args = ["req", "-x509", "-newkey", "ec", "-pkeyopt", "ec_paramgen_curve:P-256", "-nodes", "-days", days];
    execFileSync(
      "openssl",
      [...args, "-keyout", at("key"), "-out", at("cert"), "-subj", `/CN=${name}`, "-addext", "subjectAltName=IP:127.0.0.1"],
      {
        stdio: "ignore",
      },
    );
    return { key: fs.readFileSync(at("key"), "utf8"), cert: fs.readFileSync(at("cert"), "utf8") };
  }
  const sum = (cert: string) =>
    execFileSync("openssl", ["x509", "-noout", "-fingerprint", "-sha256"], { input: cert, encoding: "utf8" })
      .split("=")[1]!
      .trim()
      .replace(/:/g, "")
      .toLowerCase();

  test("a certificate that nobody vouches for is not, and no request goes out; accepted, it is", async () => {
    const tls = certificate("station");
    const cloud = await openHere({ tls });
    await expect(storeFor(cloud).reach()).rejects.toMatchObject({
      code: "certificate-unknown",
      facts: { name: sum(tls.cert), detail: expect.stringMatching(/nobody but itself says so.*valid from/) },
    });
    expect(cloud.counts.size).toBe(0);
    await storeFor(cloud, { pin: sum(tls.cert) }).reach();
    expect(cloud.counts.get("PROPFIND")).toBe(1);
  });

  test("another certificate than was accepted is not, whoever vouches for it; both are said", async () => {
    const cloud = await openHere({ tls: certificate("station") });
    const pin = sum(certificate("before").cert);
    await expect(storeFor(cloud, { pin }).reach()).rejects.toMatchObject({
      code: "certificate-changed",
      facts: { detail: expect.stringContaining(`accepted was ${pin.match(/../g)!.join(":")}`) },
    });
    expect(cloud.counts.size).toBe(0);
  });

  test("one that somebody vouches for whom this computer trusts is, under its own name alone", async () => {
    const tls = certificate("trusted");
    const file = path.join(folder, "trusted.pem");
    fs.writeFileSync(file, tls.cert);
    const cloud = await openHere({ tls });
    process.env.SSL_CERT_FILE = file;
    try {
      await storeFor(cloud).reach();
      const named = cloud.url.replace("127.0.0.1", "localhost");
      await expect(storeFor(cloud, { url: named }).reach()).rejects.toMatchObject({
        code: "certificate-unknown",
        facts: { detail: expect.stringContaining("another name") },
      });
    } finally {
      delete process.env.SSL_CERT_FILE;
    }
  });
});

test("a list tells of what lies in the folder, whatever else is in it, and however it is written", async () => {
  const cloud = await openHere();
  const store = storeFor(cloud);
  await store.makeFolder(raw("Möwen & <Lummen> 100%"));
  const inside = raw("Möwen & <Lummen> 100%");
  for (const name of ["a b.txt", "ä?#;.txt", "%41", "..x"]) await store.write(`${inside}/${raw(name)}` as Raw, contentOf(name));
  for (const fail of ["PROPFIND=absolute", "PROPFIND=plain", "PROPFIND=outside", ""]) {
    cloud.set({ fail: fail ? [fail] : [] });
    expect((await store.list(inside)).map(({ name }) => name).sort(), fail).toEqual(
      ["%41", "..x", "a b.txt", "ä?#;.txt"].map(raw).sort(),
    );
    expect((await readWhole(store, `${inside}/${raw("%41")}` as Raw, 100))?.toString(), fail).toBe("%41");
  }
});

test("an answer without end, one that grows where it is read, and one of another file are no answers", async () => {
  const cloud = await openHere();
  const store = storeFor(cloud);
  await store.write(raw("file"), contentOf("x".repeat(1000)));
  for (const fail of ["PROPFIND=endless", "PROPFIND=expanding"]) {
    cloud.set({ fail: [fail] });
    await expect(store.list(top), fail).rejects.toMatchObject({ code: "depot-failing" });
  }
  cloud.set({ fail: ["GET=endless"] });
  await expect(readWhole(store, raw("file"), 1000)).rejects.toMatchObject({ code: "file-too-large" });
  cloud.set({ fail: ["GET=short"] });
  await expect(readWhole(store, raw("file"), 1000)).rejects.toMatchObject({ code: "depot-failing" });
});

test("a file whose way is cut in the middle is given whole all the same, a block after the other", async () => {
  const cloud = await openHere();
  const store = storeFor(cloud);
  const content = Buffer.alloc(1_000_000, "kittiwake and guillemot ");
  await store.write(raw("file"), {
    bytes: content.length,
    content: async function* () {
      yield content;
    },
  });
  let gets = 0;
  cloud.before = (method) => {
    // Twice in the middle, and then no more.
    if (method === "GET") cloud.set({ fail: ++gets <= 2 ? ["GET=cut"] : [] });
  };
  const parts: Buffer[] = [];
  for await (const part of readSteadily(store, raw("file"), content.length)) parts.push(Buffer.from(part));
  expect(gets).toBe(3);
  expect(Buffer.concat(parts).equals(content)).toBe(true);
});

test("what was written meanwhile under the same name is not replaced", async () => {
  const cloud = await openHere();
  const store = storeFor(cloud);
  await store.write(raw("file"), contentOf("first"));
  await expect(store.write(raw("file"), contentOf("second"))).rejects.toMatchObject({ code: "name-taken" });
  expect((await readWhole(store, raw("file"), 100))?.toString()).toBe("first");
});

describe("a multistatus", () => {
  const body = (href: string, more = "") =>
    Buffer.from(
      `<?xml version="1.0"?><D:multistatus xmlns:D="DAV:"><D:response><D:href>${href}</D:href><D:propstat><D:prop><D:getcontentlength>12</D:getcontentlength>${more}</D:prop><D:status>HTTP/1.1 200 OK</D:status></D:propstat></D:response></D:multistatus>`,
    );
  test.each([
    ["/dav/a%20b", "/dav/a b"],
    ["https://example.test/dav/a%20b/", "/dav/a b"],
    ["/dav/%c3%a4", "/dav/\xc3\xa4"],
    ["/dav/ä", "/dav/\xc3\xa4"],
    ["/dav/a?query#part", "/dav/a"],
    ["/dav/%2e%2e/x", "/dav/../x"],
  ])("reads %s", (href, expected) => {
    expect(readMultistatus(body(href), "application/xml")).toMatchObject([{ path: expected, bytes: 12, folder: false }]);
  });
  test("tells sizes only where they are numbers, and is none with entities of its own, or where it is no XML", () => {
    expect(readMultistatus(body("/a", "<D:quota-available-bytes>-3</D:quota-available-bytes>"), undefined)).toMatchObject([
      { free: undefined },
    ]);
    expect(readMultistatus(Buffer.from("<!DOCTYPE x [<!ENTITY a 'b'>]><multistatus/>"), undefined)).toBeUndefined();
    for (const text of ["", "plain", "<html><body>Sign in</body></html>", "{}"])
      expect(readMultistatus(Buffer.from(text), "text/html"), text).toBeUndefined();
    expect(readMultistatus(Buffer.from(`\ufeff${body("/a").toString()}`, "utf16le"), "application/xml")).toMatchObject([
      { path: "/a" },
    ]);
    expect(pathOfHref("relative/path")).toBeUndefined();
  });
});
