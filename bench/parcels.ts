import { spawnSync } from "node:child_process";
import { randomBytes } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { openCloud } from "../src/standins/cloud/cloud";
import { serve } from "./busy";
import { folder, type Row, rows, shell, shellBeside, timed } from "./measure";
import { apache } from "./webdav";

interface Place {
  url: string;
  user: string;
  password: string;
  /** Where it keeps what it is sent. */
  folder: string;
}

/** Files of made-up content, in one folder on a desktop; old enough that nobody is writing them. */
function fill(account: string, name: string, count: number, bytes: number): string {
  const at = path.join(account, "Desktop", name);
  fs.mkdirSync(at, { recursive: true });
  const block = randomBytes(bytes);
  for (let n = 0; n < count; n++) {
    block.writeUInt32LE(n, 0);
    const file = path.join(at, `${String(n).padStart(5, "0")}.bin`);
    fs.writeFileSync(file, block);
    fs.utimesSync(file, 1e9, 1e9);
  }
  return at;
}

/** Files by `curl -T`, over one connection in one call; without it the same back. */
async function byCurl(place: Place, from: string, back = false): Promise<number> {
  const names = fs.readdirSync(from);
  const base = `${place.url}by-curl/`;
  const line = (name: string) =>
    back
      ? `url = "${base}${name}"\noutput = "${path.join(folder, "curl-back", name)}"`
      : `upload-file = "${path.join(from, name)}"\nurl = "${base}${name}"\noutput = "/dev/null"`;
  const config = path.join(folder, "curl.conf");
  fs.writeFileSync(config, `silent\nshow-error\nfail\nuser = "${place.user}:${place.password}"\n${names.map(line).join("\n")}\n`);
  if (back) fs.mkdirSync(path.join(folder, "curl-back"), { recursive: true });
  else await shellBeside(`curl -sf -u ${place.user}:${place.password} -X MKCOL ${base}`, folder);
  return timed(() => shellBeside(`curl -K ${config}`, folder));
}

const clear = (place: Place) => {
  for (const name of fs.readdirSync(place.folder)) fs.rmSync(path.join(place.folder, name), { recursive: true });
};

/** What a process takes at its most, from its start to now; megabytes. */
const highest = (pid: number) => Number(/VmHWM:\s+(\d+)/.exec(fs.readFileSync(`/proc/${pid}/status`, "utf8"))![1]) / 1000;

async function measured(
  place: Place,
  figure: string,
  account: string,
  from: string,
  bounds: Pick<Row, "atMost" | "aim">,
  times: number,
): Promise<void> {
  const row: Row = { figure, ours: [], theirs: [], ...bounds };
  const back: Row = { figure: `${figure}, brought back`, ours: [], theirs: [], atMost: 2.5, aim: 1.5 };
  const vuoto = await serve(account);
  await vuoto.ask("depots/add", { location: place.url, title: "Cloud", user: place.user, password: place.password });
  for (let run = 0; run < times; run++) {
    clear(place);
    row.theirs!.push(await byCurl(place, from));
    if (run === 0) back.theirs!.push(await byCurl(place, from, true));
    clear(place);
    await vuoto.ask("survey/refresh", {});
    const item = { path: Buffer.from(from).toString("base64") };
    await vuoto.ask("sitting/archive", { items: [item], parcel: `Run ${run}` });
    let report: Record<string, unknown> = {};
    row.ours.push(
      await timed(async () => {
        report = await vuoto.ask("depots/send", { parcel: `Run ${run}`, depot: "Cloud" });
      }),
    );
    if (report.done !== 1 || (report.refused as unknown[]).length > 0) throw new Error(JSON.stringify(report));
    const bag = path.join(place.folder, fs.readdirSync(place.folder)[0]!);
    if (run === 0) {
      const sums = spawnSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: bag });
      if (sums.status !== 0) throw new Error(String(sums.stderr));
      const into = path.join(account, "Documents/back");
      back.ours.push(await timed(() => vuoto.ask("depots/restore", { parcel: "Run 0", into, programs: true })));
      if (fs.readdirSync(path.join(into, path.basename(from))).length !== fs.readdirSync(from.replace("Desktop", "kept")).length)
        throw new Error("not all of it came back");
      await vuoto.ask("ledger/undo", {});
    }
    await vuoto.ask("ledger/undo", {});
  }
  rows.push(row);
  if (bounds.atMost === 2.5) rows.push(back);
  await vuoto.stop();
}

/** An account with files in one folder of its desktop, and the same beside it. */
function accountWith(name: string, count: number, bytes: number): { account: string; from: string } {
  const account = path.join(folder, name);
  fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
  fs.mkdirSync(path.join(account, "Documents"));
  const from = fill(account, "data", count, bytes);
  fs.mkdirSync(path.join(account, "kept"));
  fs.cpSync(from, path.join(account, "kept/data"), { recursive: true });
  return { account, from };
}

const otherServer = async (name: string) => {
  const server = await apache(path.join(folder, name));
  if (!server) throw new Error("P9 needs the package apache2");
  return server;
};

/** A parcel of a gigabyte to a WebDAV server, verified, and back; against `curl -T`. */
export async function largeParcel(): Promise<void> {
  const server = await otherServer("webdav");
  const { account, from } = accountWith("gigabyte", 500, 2_000_000);
  await measured(server, "P9 1 GB in 500 files, verified", account, from, { atMost: 2.5, aim: 1.5 }, 3);
  await server.stop();
}

/** The same of many small files. */
export async function parcelOfSmallFiles(): Promise<void> {
  const server = await otherServer("webdav-small");
  const { account, from } = accountWith("small", 20_000, 5000);
  await measured(server, "P9 20,000 files of 5 kB, verified", account, from, { atMost: 3, aim: 1.5 }, 2);
  await server.stop();
}

/** The same, where every request takes a while. */
export async function parcelFarAway(): Promise<void> {
  const kept = path.join(folder, "slow-cloud");
  const cloud = await openCloud(kept, { settings: { latency: 20 } });
  const { user, password } = cloud.settings;
  const { account, from } = accountWith("slow", 1000, 5000);
  const place = { url: cloud.url, user, password, folder: kept };
  await measured(place, "P9 1,000 files at 20 ms a request", account, from, { atMost: 1, aim: 0.5 }, 2);
  await cloud.close();
}

/** What the server takes while a file of 8 GB goes to a cloud that keeps only what there is room for. */
export async function memoryOfALargeFile(): Promise<void> {
  const account = path.join(folder, "huge");
  fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
  const file = path.join(account, "Desktop/huge.bin");
  fs.writeFileSync(file, "");
  fs.truncateSync(file, 8_000_000_000);
  fs.utimesSync(file, 1e9, 1e9);
  const server = await otherServer("webdav-huge");
  const vuoto = await serve(account);
  await vuoto.ask("survey/refresh", {});
  await vuoto.ask("depots/add", { location: server.url, title: "Cloud", user: server.user, password: server.password });
  await vuoto.ask("sitting/archive", { items: [{ path: Buffer.from(file).toString("base64") }], parcel: "Huge" });
  const before = highest(vuoto.pid());
  await vuoto.ask("depots/send", { parcel: "Huge", depot: "Cloud", wait: false });
  let written = 0;
  for (let n = 0; n < 600 && written < 1; n++) {
    await new Promise((next) => setTimeout(next, 1000));
    const [parcel] = (await vuoto.ask("depots/parcels", {})) as unknown as { state: string }[];
    if (parcel!.state === "sent" || parcel!.state === "failed") written = 1;
  }
  rows.push({
    figure: "P9 memory while 8 GB go, more than before",
    ours: [highest(vuoto.pid()) - before],
    atMost: 300,
    aim: 150,
    unit: "MB",
  });
  await vuoto.stop();
  await server.stop();
}

/** Reading a folder depot over, against sha256sum of the same files. */
export async function checking(): Promise<void> {
  const { account, from } = accountWith("to-check", 500, 2_000_000);
  const depot = path.join(folder, "checked");
  fs.mkdirSync(depot);
  const vuoto = await serve(account);
  await vuoto.ask("survey/refresh", {});
  await vuoto.ask("depots/add", { location: depot, title: "Disk" });
  await vuoto.ask("sitting/archive", { items: [{ path: Buffer.from(from).toString("base64") }], parcel: "Checked" });
  await vuoto.ask("depots/send", { parcel: "Checked", depot: "Disk" });
  const row: Row = { figure: "P9 a folder depot of 1 GB checked", ours: [], theirs: [], atMost: 1.3, aim: 1 };
  for (let run = 0; run < 3; run++) {
    row.theirs!.push(await timed(() => shell("sha256sum -c --quiet manifest-sha256.txt", path.join(depot, "Checked"))));
    row.ours.push(await timed(() => vuoto.ask("depots/check", { parcel: "Checked" })));
  }
  rows.push(row);
  await vuoto.stop();
}
