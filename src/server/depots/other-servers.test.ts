import { execFileSync } from "node:child_process";
import fs from "node:fs";
import http from "node:http";
import type { AddressInfo } from "node:net";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { apache, lighttpd, type OtherServer } from "../../../bench/webdav";
import { makeHostileAccount } from "../../../fixtures/accounts";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { archive } from "../sitting/archive";
import { addDepot } from "./add";
import { check } from "./check";
import { listParcels } from "./list";
import { restoreParcel } from "./restore";
import { cancelSending, send } from "./send";

/** WebDAV servers of the computer's own packages, where they are installed; in the long form, which says where one is missing. */
const servers = { "Apache HTTP Server": apache, lighttpd };

let place: Place;
let engine: Engine;
let before: ReturnType<Place["tree"]>;
let ends: (() => Promise<void> | void)[];

beforeEach(async () => {
  place = makePlace((root) => void makeHostileAccount(root));
  fs.chmodSync(place.folder, 0o755);
  engine = await place.open();
  await archive(engine, { items: idsOn(engine), parcel: "Season 12" });
  before = place.tree();
  ends = [];
});
afterEach(async () => {
  await engine.close();
  for (const end of ends.reverse()) await end();
  place.remove();
});

const untouched = () =>
  differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line) && !/Trash/.test(line));

/** A way to a server on which something goes wrong at each n-th request. */
async function through(server: OtherServer, what: "cut" | number, every: number): Promise<string> {
  const to = new URL(server.url);
  let n = 0;
  const own = () => (proxy.address() as AddressInfo).port;
  const proxy = http.createServer((request, response) => {
    if (++n % every === 0) {
      if (what === "cut") request.socket.destroy();
      else response.writeHead(what).end();
      return;
    }
    const headers: http.OutgoingHttpHeaders = { ...request.headers, host: to.host };
    // Where a thing is to go is told as a whole address.
    if (headers.destination) headers.destination = String(headers.destination).replace(`:${own()}/`, `:${to.port}/`);
    const onward = http.request(
      { host: to.hostname, port: to.port, method: request.method, path: request.url, headers },
      (answer) => {
        response.writeHead(answer.statusCode ?? 500, answer.headers);
        answer.pipe(response);
      },
    );
    onward.on("error", () => request.socket.destroy());
    request.pipe(onward);
  });
  await new Promise<void>((ready) => proxy.listen(0, "127.0.0.1", ready));
  ends.push(() => {
    proxy.closeAllConnections();
    proxy.close();
  });
  return `http://127.0.0.1:${own()}/`;
}

describe.runIf(process.env.VUOTO_TORTURE).each(Object.entries(servers))("to %s", (_name, open) => {
  const start = async (): Promise<OtherServer> => {
    const server = await open(path.join(place.folder, "server"));
    if (!server) throw new Error("it is not installed");
    ends.push(server.stop);
    return server;
  };

  test("a parcel of names of every sort arrives, is checked by ordinary tools, and comes back to the byte", async () => {
    const server = await start();
    const { url, user, password } = server;
    await addDepot(engine, { location: url, title: "Cloud", user, password });
    const report = await send(engine, { parcel: "Season 12", depot: "Cloud" });
    // A pipe and the like are no files.
    expect(report.refused.filter(({ code }) => code !== "special-file")).toEqual([]);
    const [bag] = fs.readdirSync(server.folder);
    for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"])
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: path.join(server.folder, bag!) });
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
    await emptyAll(engine);
    expect(await restoreParcel(engine, { parcel: "Season 12", programs: true })).toMatchObject({ refused: [] });
    // A parcel gives no rights beyond 0777 back, and two names of one file are two files.
    expect(untouched().filter((line) => !/^(sameFile of |mode of .*: 1512 became 488)/.test(line))).toEqual([]);
  });

  test.each([
    ["cut", 2],
    ["cut", 5],
    ["cut", 7],
    [503, 5],
    [502, 9],
    [429, 6],
  ] as const)(
    "with %s at every %ith request it arrives too",
    async (what, every) => {
      const server = await start();
      const { user, password } = server;
      await addDepot(engine, { location: server.url, title: "Cloud", user, password });
      const url = await through(server, what, every);
      await engine.close();
      engine = await place.open({ lasting: true });
      await addDepot(engine, { location: url, title: "By a bad way", user, password });
      let arrived = await send(engine, { parcel: "Season 12", depot: "By a bad way" }).catch(() => undefined);
      while (!arrived && listParcels(engine)[0]!.state === "sending")
        arrived = await engine.sendings.arrival(listParcels(engine)[0]!.id).catch(() => undefined);
      expect(listParcels(engine)[0]).toMatchObject({ state: "sent" });
      const names = fs.readdirSync(server.folder);
      expect(names).toEqual(["Season 12"]);
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], {
        cwd: path.join(server.folder, names[0]!),
      });
    },
    120_000,
  );

  test.each([401, 403, 507] as const)(
    "with %i in the middle nothing counts as sent, and cancelled nothing is left",
    async (status) => {
      const server = await start();
      const { user, password } = server;
      const url = await through(server, status, 40);
      await addDepot(engine, { location: url, title: "By a bad way", user, password });
      await expect(send(engine, { parcel: "Season 12", depot: "By a bad way" })).rejects.toThrow();
      expect(listParcels(engine)[0]).toMatchObject({ state: "failed", provenAt: null });
      expect(untouched()).toEqual([]);
      for (let n = 0; n < 5 && listParcels(engine)[0]!.state !== "collecting"; n++)
        await cancelSending(engine, { parcel: "Season 12" }).catch(() => {});
      expect(fs.readdirSync(server.folder)).toEqual([]);
    },
  );
});
