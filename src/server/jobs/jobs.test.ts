import { spawnSync } from "node:child_process";
import { createHash } from "node:crypto";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import sharp from "sharp";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { type Raw, rawFromText } from "@/core/names/raw";
import { realClock } from "../clock";
import { Events } from "../events";
import { Jobs } from "./jobs";
import type { WalkBatch } from "./work/walk-homes";
import { Workers } from "./workers";

let folder: string;
let workers: Workers;
const at = (name: string) => path.join(folder, name);
const raw = (name: string) => rawFromText(at(name));
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-jobs-")));
  workers = new Workers();
});
afterEach(async () => {
  await workers.stop();
  fs.rmSync(folder, { recursive: true });
});

describe("events", () => {
  test("are numbered without gaps, and a stream that broke off gets what it missed", () => {
    const events = new Events();
    for (let n = 0; n < 5; n++) events.emit({ type: "said", words: String(n) });
    expect(events.since(events.markOf(2))?.map((e) => e.n)).toEqual([3, 4, 5]);
    expect(events.since(events.last)).toEqual([]);
  });
  test("that are no longer all kept, or come from another run, are asked for anew", () => {
    const events = new Events();
    for (let n = 0; n < 700; n++) events.emit({ type: "said", words: "" });
    expect(events.since(events.markOf(10))).toBeUndefined();
    expect(events.since(events.markOf(690))).toHaveLength(10);
    expect(events.since(events.markOf(9999))).toBeUndefined();
    // After a restart the same number is another event.
    expect(events.since(new Events().markOf(690))).toBeUndefined();
    for (const mark of ["", "690", "x.y"]) expect(events.since(mark), mark).toBeUndefined();
  });
});

describe("work that cannot look whether it was cancelled", () => {
  const many = (n: number) => Array.from({ length: n }, (_, i) => ({ x: (i * 7919) % 1931, y: (i * 104729) % 1087 }));
  test("ends with its thread, at once; what is asked next is answered by another", async () => {
    const gone = new AbortController();
    const options = { signal: gone.signal, abrupt: true };
    let over = false;
    // Seconds of work: each place is far from the spots that are near others.
    const spots = many(2000).map(({ x, y }) => ({ x: y, y: x }));
    const long = workers.run("findNearest", { places: many(2000), spots }, options).finally(() => {
      over = true;
    });
    const heard = expect(long).rejects.toMatchObject({ code: "cancelled" });
    const next = workers.run("findNearest", { places: many(1), spots: many(1) });
    await new Promise((done) => setTimeout(done, 300));
    expect(over).toBe(false);
    gone.abort();
    await heard;
    expect(await next).toEqual([0]);
  });
});

describe("jobs", () => {
  beforeEach(() => {
    vi.useFakeTimers({ toFake: ["setTimeout", "clearTimeout", "Date"] });
  });
  afterEach(() => {
    vi.useRealTimers();
  });
  test("that are over within a moment are not worth a word", async () => {
    const events = new Events();
    const jobs = new Jobs(events, realClock);
    await jobs.run("Working", "things", 3, async (job) => {
      for (let n = 0; n < 3; n++) await job.step(0);
      vi.advanceTimersByTime(350);
      expect(jobs.list()).toEqual([]);
    });
    vi.advanceTimersByTime(1000);
    expect(events.since(events.markOf(0))).toEqual([]);
  });
  test("are all cancelled at the end, those too that nobody was told of", async () => {
    const jobs = new Jobs(new Events(), realClock);
    const running = jobs.run("Working", "things", 0, async (job) => {
      for (;;) await job.step(0);
    });
    jobs.cancelAll();
    await expect(running).rejects.toMatchObject({ code: "cancelled" });
  });
  test("are told of though they cannot say how far they are", async () => {
    const events = new Events();
    const jobs = new Jobs(events, realClock);
    await jobs.run("Waiting", "things", 0, async () => {
      vi.advanceTimersByTime(450);
      expect(jobs.list()).toMatchObject([{ words: "Waiting", done: 0 }]);
    });
    expect(events.since(events.markOf(0))?.map(({ event }) => event.type === "job" && event.job.state)).toEqual([
      "running",
      "over",
    ]);
  });
  test("are listed while they run, and told as over when they end, also by an error", async () => {
    const events = new Events();
    const jobs = new Jobs(events, realClock);
    await expect(
      jobs.run("Working", "things", 3, async (job) => {
        vi.advanceTimersByTime(500);
        expect(jobs.list()).toMatchObject([{ words: "Working", of: 3, state: "running" }]);
        await job.step(0);
        throw new Error("x");
      }),
    ).rejects.toThrow("x");
    expect(jobs.list()).toEqual([]);
    expect(events.since(events.markOf(0))?.at(-1)?.event).toMatchObject({ type: "job", job: { state: "over", done: 1 } });
  });
  test("are cancelled between two steps", async () => {
    const jobs = new Jobs(new Events(), realClock);
    let steps = 0;
    const running = jobs.run("Working", "things", 0, async (job) => {
      for (;;) {
        await job.step(0);
        vi.advanceTimersByTime(200);
        if (++steps === 3) jobs.cancel(jobs.list()[0]!.id);
      }
    });
    await expect(running).rejects.toMatchObject({ code: "cancelled" });
    expect(steps).toBe(3);
    expect(jobs.cancel("none")).toBe(false);
  });
});

describe("threads", () => {
  test("do first what is urgent, and not at all what nobody waits for any more", async () => {
    fs.writeFileSync(at("slow.txt"), "slow ".repeat(300_000));
    for (const name of ["a", "b", "c"]) fs.writeFileSync(at(`${name}.txt`), name);
    const order: string[] = [];
    const left = new AbortController();
    const look = (name: string, options: { urgent?: boolean; signal?: AbortSignal } = {}) =>
      workers.run("lookAtText", { path: at(`${name}.txt`) as never, asTable: false }, options).then(
        () => order.push(name),
        () => order.push(`${name} dropped`),
      );
    const all = [look("slow"), look("a"), look("b", { signal: left.signal }), look("c", { urgent: true })];
    left.abort();
    await Promise.all(all);
    expect(order).toEqual(["b dropped", "slow", "c", "a"]);
  });
  test("keep made pictures within their bounds, and throw those away first that were longest not looked at", async () => {
    for (let n = 0; n < 10; n++) {
      fs.mkdirSync(at(`pictures/${n % 3}`), { recursive: true });
      fs.writeFileSync(at(`pictures/${n % 3}/${n}.webp`), Buffer.alloc(1000));
      fs.utimesSync(at(`pictures/${n % 3}/${n}.webp`), 1000 + n, n === 0 ? 5000 : 1000 + n);
    }
    const left = () =>
      fs
        .readdirSync(at("pictures"), { recursive: true, encoding: "utf8" })
        .flatMap((name) => (name.endsWith(".webp") ? [Number(path.basename(name, ".webp"))] : []))
        .sort((a, b) => a - b);
    const prune = (most: number) => workers.run("prunePictures", { folder: at("pictures"), most });
    expect(await prune(10_000)).toEqual({ gone: 0, bytes: 10_000 });
    expect(await prune(8000)).toEqual({ gone: 4, bytes: 6000 });
    expect(left()).toEqual([0, 5, 6, 7, 8, 9]);
    expect(await workers.run("prunePictures", { folder: at("none"), most: 1 })).toEqual({ gone: 0, bytes: 0 });
  });
  test("hash whole files, tell how far they are, and leave out what is no plain file", async () => {
    fs.writeFileSync(at("a"), "abc");
    fs.symlinkSync("a", at("link"));
    let read = 0;
    const part = (n: number) => {
      read += n;
    };
    const sums = await workers.run("hashFiles", [raw("a"), raw("link"), raw("missing"), rawFromText(folder)], {
      part: part as (p: never) => void,
    });
    expect([...sums]).toEqual([[raw("a"), "ba7816bf8f01cfea414140de5dae2223b00361a396177a9cb410ff61f20015ad"]]);
    expect(read).toBe(3);
  });

  test("walk the homes without following links, hidden folders and what is left out", async () => {
    for (const name of ["h/one/made", "h/.hidden", "h/out/deep", "h/not/this", "w/made"])
      fs.mkdirSync(at(name), { recursive: true });
    for (const name of ["h/a.txt", "h/one/b.csv", "h/.hidden/c", "h/out/deep/d", "h/one/made/e", "h/not/this/f", "w/made/whole"])
      fs.writeFileSync(at(name), name);
    fs.symlinkSync("/", at("h/everything"));
    const found: string[] = [];
    const part = (batch: WalkBatch) => {
      for (const { names } of batch.folders) found.push(...names);
    };
    const answer = await workers.run(
      "walkHomes",
      {
        roots: [raw("h"), raw("h/one"), raw("missing"), raw("w")],
        leftOut: [raw("h/out")],
        byWish: { names: ["made" as Raw], folders: [raw("h/not")] },
        whole: [raw("w")],
        known: new Map(),
      },
      { part: part as (p: never) => void },
    );
    expect(found.sort()).toEqual(["a.txt", "b.csv", "whole"]);
    expect(answer.unreadable).toEqual([raw("missing")]);
    expect(answer.leftOut.sort()).toEqual([raw("h/not"), raw("h/one/made")]);
    expect(answer.files).toBe(3);
  });

  test("a walk tells the state of each file exactly, whatever its name and its time", async () => {
    fs.mkdirSync(at("h"));
    const names = ["plain", "\xff\xfe", "x".repeat(255), "long ago", "tomorrow"];
    for (const name of names) fs.writeFileSync(Buffer.from(at(`h/${name}`), "latin1"), name);
    spawnSync("touch", ["-d", "1901-12-31 23:59:59.123456789", at("h/long ago")]);
    spawnSync("touch", ["-d", "2199-01-01 00:00:00.000000007", at("h/tomorrow")]);
    const files = new Map<string, unknown>();
    const part = (batch: WalkBatch) => {
      for (const folder of batch.folders) for (const [n, name] of folder.names.entries()) files.set(name, folder.files[n]);
    };
    const nothing = { leftOut: [], byWish: { names: [], folders: [] }, whole: [], known: new Map() };
    await workers.run("walkHomes", { roots: [raw("h")], ...nothing }, { part: part as (p: never) => void });
    for (const name of names) {
      const stat = fs.lstatSync(Buffer.from(at(`h/${name}`), "latin1"), { bigint: true });
      const said = { bytes: Number(stat.size), ino: String(stat.ino), mtimeNs: String(stat.mtimeNs) };
      expect(files.get(name), name).toMatchObject(said);
    }
  });

  test("identical files are found however late the others differ, and whatever is known already stands for its like", async () => {
    const size = 9_000_000;
    const make = (name: string, change?: number) => {
      const content = Buffer.alloc(size, 7);
      if (change !== undefined) content[change] = 8;
      fs.writeFileSync(at(name), content);
    };
    make("one");
    make("two");
    make("known");
    make("known too");
    for (const change of [0, 5000, 70_000, 4_500_000, size - 5000, size - 1]) make(`differs at ${change}`, change);
    make("differs alike", 4_500_000);
    const sum = (name: string) =>
      createHash("sha256")
        .update(fs.readFileSync(at(name)))
        .digest("hex");
    const files = fs
      .readdirSync(folder)
      .map((name) => ({ path: raw(name), sha256: name.startsWith("known") ? sum(name) : null }));
    let told = 0;
    const part = (read: number) => {
      told += read;
    };
    const sums = await workers.run("hashTwins", [{ bytes: size, files }], { part: part as (p: never) => void });
    const expected = ["one", "two", "differs at 4500000", "differs alike"].map((name): [Raw, string] => [raw(name), sum(name)]);
    expect(new Map([...sums].sort())).toEqual(new Map(expected.sort()));
    expect(told).toBe(size * files.filter((file) => file.sha256 === null).length);
  });

  test("have failed where a part of what they tell cannot be taken in, and go on with the next", async () => {
    fs.writeFileSync(at("a"), Buffer.alloc(3_000_000));
    const full = Object.assign(new Error("database or disk is full"), { code: "SQLITE_FULL" });
    const part = () => {
      throw full;
    };
    await expect(workers.run("hashFiles", [raw("a")], { part })).rejects.toBe(full);
    expect((await workers.run("hashFiles", [raw("a")])).size).toBe(1);
  });

  test("stop when they are cancelled, and go on with the next", async () => {
    const controller = new AbortController();
    for (let n = 0; n < 40; n++) fs.writeFileSync(at(`big-${n}`), Buffer.alloc(4_000_000, n));
    const part = () => controller.abort();
    const sums = await workers.run(
      "hashFiles",
      Array.from({ length: 40 }, (_, n) => raw(`big-${n}`)),
      { part, signal: controller.signal },
    );
    expect(sums.size).toBeLessThan(40);
    await expect(workers.run("hashFiles", [raw("big-0")], { signal: controller.signal })).rejects.toMatchObject({
      code: "cancelled",
    });
    expect((await workers.run("hashFiles", [raw("big-0")])).size).toBe(1);
  });
});

describe("pictures", () => {
  const look = (name: string) => workers.run("lookAtPicture", { path: raw(name), width: 100, height: 100 });

  test("are made smaller, turned upright, and lose their metadata", async () => {
    const picture = await sharp({ create: { width: 400, height: 200, channels: 3, background: "#123" } })
      .withExif({ IFD0: { Make: "secret" } })
      .withMetadata({ orientation: 6 })
      .jpeg()
      .toBuffer();
    fs.writeFileSync(at("p.jpg"), picture);
    const made = await sharp(Buffer.from(await look("p.jpg"))).metadata();
    expect(made).toMatchObject({ format: "webp", width: 50, height: 100 });
    expect(made.exif).toBeUndefined();
  });

  test("that declare more than can be held are refused, and so are torn ones and what is none", async () => {
    const header = await sharp({ create: { width: 10, height: 10, channels: 3, background: "#123" } })
      .png()
      .toBuffer();
    // The same file, but for its declared size and the checksum of that.
    const bomb = Buffer.from(header);
    bomb.writeUInt32BE(30_000, 16);
    bomb.writeUInt32BE(30_000, 20);
    const { crc32 } = await import("node:zlib").then((zlib) => zlib as unknown as { crc32?: (b: Buffer) => number });
    if (crc32) bomb.writeUInt32BE(crc32(bomb.subarray(12, 29)), 29);
    fs.writeFileSync(at("bomb.png"), bomb);
    fs.writeFileSync(at("torn.png"), header.subarray(0, 30));
    fs.writeFileSync(at("none.png"), "no picture");
    for (const name of ["bomb.png", "torn.png", "none.png"])
      await expect(look(name), name).rejects.toMatchObject({ code: "no-picture" });
    await expect(look("missing.png")).rejects.toMatchObject({ code: "vanished" });
    fs.symlinkSync("none.png", at("link.png"));
    await expect(look("link.png")).rejects.toMatchObject({ code: "no-picture" });
    expect((await workers.run("hashFiles", [raw("torn.png")])).size).toBe(1);
  });

  test("drawn as text with a script are only drawn", async () => {
    fs.writeFileSync(
      at("s.svg"),
      '<svg xmlns="http://www.w3.org/2000/svg" width="20" height="20"><script>throw 1</script><image href="file:///etc/passwd"/><rect width="20" height="20"/></svg>',
    );
    expect((await sharp(Buffer.from(await look("s.svg"))).metadata()).format).toBe("webp");
  });
});
