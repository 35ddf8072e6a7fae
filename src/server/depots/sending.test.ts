import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, itemNamed, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import type { Engine } from "../engine";
import { undo } from "../ledger/undo";
import type { EngineOptions } from "../opening";
import { quiet } from "../quiet/quiet";
import { archive } from "../sitting/archive";
import { addDepot, changeSignIn } from "./add";
import { check } from "./check";
import { lastCheck } from "./checks";
import { parcels } from "./depots";
import { listDepots, listParcels } from "./list";
import { ParcelFiles } from "./parcel-files";
import { restoreParcel } from "./restore";
import { cancelSending, pauseSending, send } from "./send";
import { sendingRow } from "./sending-row";
import { depotsView } from "./view";

const things = 12;
let place: Place;
let engine: Engine;
let cloud: Cloud;
let before: ReturnType<Place["tree"]>;

const stored = (...parts: string[]) => path.join(place.folder, "cloud", ...parts);
const bureau = () => fs.readdirSync(path.join(place.root, "Bureau"));
/** Everything is as it was, byte for byte. */
const untouched = () => differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line));
const sendIt = () => send(engine, { parcel: "Season 12", depot: "Cloud" });
const state = () => listParcels(engine)[0]?.state;
const open = async (options?: EngineOptions) => {
  engine = await place.open(options);
};
const signIn = () => ({ user: cloud.settings.user, password: cloud.settings.password });

beforeEach(async () => {
  place = makePlace((root) => {
    makeRandomAccount(root, 31, things - 1);
    fs.mkdirSync(path.join(root, "Bureau/tree/in ner"), { recursive: true });
    for (let n = 0; n < 20; n++) fs.writeFileSync(path.join(root, `Bureau/tree/in ner/leaf ${n}`), `leaf ${n}`.repeat(n * 50));
    fs.writeFileSync(path.join(root, "Bureau/tree/large"), Buffer.alloc(3_000_000, "tide"));
  });
  cloud = await openCloud(path.join(place.folder, "cloud"), { settings: { quota: 100_000_000 } });
  await open();
  await addDepot(engine, { location: cloud.url, title: "Cloud", ...signIn() });
  await archive(engine, { items: idsOn(engine), parcel: "Season 12" });
  before = place.tree();
});
afterEach(async () => {
  cloud.before = undefined;
  await engine.close();
  await cloud.close();
  place.remove();
});

/** It has arrived: a bag that ordinary tools check, and nothing else; the originals are gone from where they lay. */
function expectArrived(): void {
  expect(fs.readdirSync(stored())).toEqual(["Season 12"]);
  for (const manifest of ["manifest-sha256.txt", "tagmanifest-sha256.txt"])
    execFileSync("sha256sum", ["-c", "--quiet", "--strict", manifest], { cwd: stored("Season 12") });
  expect(state()).toBe("sent");
  expect(bureau()).toEqual([]);
}

/** It does not count as sent, and every original lies where it lay. */
function expectNotSent(): void {
  expect(state()).not.toBe("sent");
  expect(listParcels(engine)[0]!.provenAt).toBeNull();
  expect(untouched()).toEqual([]);
}

/** What was sent of it is taken away again, and nothing is left. */
async function expectCancelled(): Promise<void> {
  cloud.set({ fail: [], quota: 100_000_000, ...{ user: "station", password: "gannet" } });
  await cancelSending(engine, { parcel: "Season 12" });
  expect(fs.readdirSync(stored())).toEqual([]);
  expect(state()).toBe("collecting");
  expect(new ParcelFiles(engine.db, parcels(engine)[0]!.id).all()).toEqual([]);
  expect(untouched()).toEqual([]);
}

describe("a parcel to a cloud", () => {
  test("arrives, is let go, comes back whole after the trash was emptied, and all of it is undone", async () => {
    expect(await sendIt()).toMatchObject({ done: things, refused: [] });
    expectArrived();
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
    await emptyAll(engine);
    expect(await restoreParcel(engine, { parcel: "Season 12", programs: true })).toMatchObject({ done: things, refused: [] });
    const lines = untouched().filter((line) => !/Trash/.test(line));
    expect(lines).toEqual([]);
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
    expect(untouched().filter((line) => !/Trash/.test(line))).toEqual([]);
  });

  test.each([
    ["PUT", 1, false],
    ["PUT", 4, true],
    ["PUT", 9, false],
    ["MOVE", 1, false],
    ["GET", 2, true],
    ["GET", 12, false],
    ["GET", 40, true],
  ])(
    "taken out of sight at its %s number %i (and back: %s): they leave the screen at once, and it arrives",
    async (method, at, back) => {
      let [count, hidden] = [0, Promise.resolve<unknown>(undefined)];
      const seen: string[][] = [];
      cloud.before = (asked) => {
        if (asked !== method || ++count !== at) return;
        hidden = quiet(engine, { level: "bare" }).then(async (report) => {
          seen.push(bureau().filter((name) => !name.startsWith(".")));
          if (back) await quiet(engine, { level: "everything" });
          return report;
        });
      };
      cloud.set({ latency: 15 });
      const report = await sendIt();
      expect(await hidden).toMatchObject({ refused: [], done: expect.any(Number) });
      expect(seen).toEqual([[]]);
      expect(report).toMatchObject({ done: things, refused: [] });
      expect(state()).toBe("sent");
      expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
      expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
      expect(untouched()).toEqual([]);
    },
  );

  test("goes on by file where it was paused, in another process too, and sends nothing twice", async () => {
    let puts = 0;
    cloud.before = (method) => {
      if (method === "PUT" && ++puts === 9) void pauseSending(engine, { parcel: "Season 12" });
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    expect(state()).toBe("paused");
    expectNotSent();
    await engine.close();
    await open();
    expect(state()).toBe("paused");
    const files = new ParcelFiles(engine.db, parcels(engine)[0]!.id);
    const { written } = files.howFar();
    expect(written).toBeGreaterThan(2);
    cloud.before = undefined;
    cloud.counts.clear();
    await send(engine, { parcel: "Season 12" });
    expectArrived();
    const tagFiles = 6;
    expect(cloud.counts.get("PUT")).toBe(files.howFar().files - written + tagFiles);
  });

  test("killed right after it was given its last name is known by it, and not sent once more", async () => {
    let named = false;
    cloud.before = (method) => {
      if (named && !cloud.settings.down) {
        cloud.set({ down: true });
        void engine.close();
      }
      named ||= method === "MOVE";
    };
    await sendIt().catch(() => {});
    await engine.close().catch(() => {});
    cloud.before = undefined;
    cloud.set({ down: false });
    expect(fs.readdirSync(stored())).toEqual(["Season 12"]);
    await open();
    expect(sendingRow(engine.db, parcels(engine)[0]!.id)).toMatchObject({ stage: "sealed" });
    cloud.counts.clear();
    await send(engine, { parcel: "Season 12" });
    expectArrived();
    expect(cloud.counts.get("PUT")).toBeUndefined();
  });

  test("stopped right after its naming, which nobody heard of, is not cancelled once its originals are gone", async () => {
    cloud.before = (method) => {
      if (method !== "MOVE") return;
      cloud.before = () => cloud.set({ down: true });
    };
    await sendIt().catch(() => {});
    cloud.before = undefined;
    cloud.set({ down: false });
    expect(sendingRow(engine.db, parcels(engine)[0]!.id)?.bag).toBe("Season 12");
    for (const name of bureau()) fs.rmSync(path.join(place.root, "Bureau", name), { recursive: true });
    await expect(cancelSending(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "only-copy" });
    expect(fs.readdirSync(stored())).toEqual(["Season 12"]);
  });

  test("closed in the middle goes on by itself when Vuoto is there for longer", async () => {
    let puts = 0;
    const closed = new Promise<void>((done) => {
      cloud.before = (method) => {
        if (method === "PUT" && ++puts === 7) void engine.close().then(done);
      };
    });
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    await closed;
    cloud.before = undefined;
    await open({ lasting: true });
    engine.sendings.goOn();
    await engine.sendings.arrival(parcels(engine)[0]!.id);
    expectArrived();
  });

  test("that is refused again and again is not said to be on its way to the end: what was sent in vain does not count", async () => {
    await engine.close();
    await open({ lasting: true });
    cloud.set({ fail: ["PUT=503"] });
    let last: { done: number; of: number } | undefined;
    let most = 0;
    engine.events.listen(({ event }) => {
      if (event.type !== "job" || !event.job.words.startsWith("Sending")) return;
      last = event.job;
      most = Math.max(most, event.job.done / event.job.of);
    });
    await expect(sendIt()).rejects.toMatchObject({ code: expect.stringMatching(/depot/) });
    expect(last).toBeDefined();
    expect(most).toBeLessThan(0.6);
    expect(engine.jobs.list().find(({ words }) => words.startsWith("Sending"))?.done).toBe(0);
    await cancelSending(engine, { parcel: "Season 12" });
    expect(untouched()).toEqual([]);
  });

  test("is not paused by Vuoto's own ending, which cancels its jobs: it goes on at the next start", async () => {
    let puts = 0;
    const closed = new Promise<void>((done) => {
      cloud.before = (method) => {
        if (method !== "PUT" || ++puts !== 7) return;
        const over = engine.sendings.end();
        engine.jobs.cancelAll();
        void over.then(() => engine.close()).then(done);
      };
    });
    await sendIt().catch(() => {});
    await closed;
    cloud.before = undefined;
    await open({ lasting: true });
    expect(state()).toBe("sending");
    engine.sendings.goOn();
    await engine.sendings.arrival(parcels(engine)[0]!.id);
    expectArrived();
  });

  test("whose depot was taken back off the list by an undo is cancelled all the same", async () => {
    let puts = 0;
    cloud.before = (method) => {
      if (method === "PUT" && ++puts === 5) void pauseSending(engine, { parcel: "Season 12" });
    };
    await sendIt().catch(() => {});
    await undo(engine, {});
    await undo(engine, { entry: 1 });
    expect(await listDepots(engine)).toEqual([]);
    await cancelSending(engine, { parcel: "Season 12" });
    expect(sendingRow(engine.db, parcels(engine)[0]!.id)).toBeUndefined();
    expect(untouched()).toEqual([]);
  });

  test("leaves out, and says so, what changes while it is sent; the rest arrives", async () => {
    const file = path.join(place.root, "Bureau/tree/in ner/leaf 3");
    cloud.before = (method) => {
      if (method !== "PUT") return;
      cloud.before = undefined;
      fs.writeFileSync(file, "saved in the middle");
    };
    const report = await sendIt();
    expect(report).toMatchObject({ done: things - 1, refused: [{ name: "tree", code: "changed" }] });
    expect(fs.readFileSync(file, "utf8")).toBe("saved in the middle");
    expect(bureau()).toEqual(["tree"]);
    expect(fs.readdirSync(stored("Season 12/data"))).not.toContain("tree");
    expect(await check(engine, { parcel: "Season 12" })).toMatchObject({ whole: true });
  });

  test("lets nothing go that changed after it was read back", async () => {
    const file = path.join(place.root, "Bureau/tree/large");
    let gets = 0;
    cloud.before = (method) => {
      // Late: while the last files are read back.
      if (method === "GET" && ++gets === 20) fs.appendFileSync(file, "more");
    };
    const report = await sendIt();
    expect(report.refused).toMatchObject([{ name: "tree", code: "changed" }]);
    expect(fs.readFileSync(file, "utf8").endsWith("more")).toBe(true);
  });

  test("cancelled at the very moment at which it is let go has arrived, and is never taken away", async () => {
    const parcel = parcels(engine)[0]!.id;
    const { perform } = engine.ledger;
    let cancelling: Promise<{ words: string }> | undefined;
    engine.ledger.perform = async (makePlan, options) => {
      const plan = await makePlan();
      if (plan.act === "send") cancelling = cancelSending(engine, { parcel: "Season 12" });
      return perform.call(engine.ledger, () => plan, options);
    };
    expect(await sendIt()).toMatchObject({ done: things });
    expect((await cancelling)?.words).toContain("had arrived at that very moment");
    expectArrived();
    expect(sendingRow(engine.db, parcel)).toBeUndefined();
  });

  test("cancelled before it is let go is not, and nothing of it is left", async () => {
    const { perform } = engine.ledger;
    let cancelling: Promise<{ words: string }> | undefined;
    engine.ledger.perform = (makePlan, options) => {
      cancelling ??= cancelSending(engine, { parcel: "Season 12" });
      return perform.call(engine.ledger, makePlan, options);
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    expect((await cancelling)?.words).toContain("is gone from the depot");
    expect(fs.readdirSync(stored())).toEqual([]);
    expect(untouched()).toEqual([]);
  });

  test("whose originals somebody took away while it was read back has arrived all the same, and is not cancelled", async () => {
    cloud.before = (method) => {
      if (method !== "MOVE") return;
      cloud.before = undefined;
      for (const name of bureau()) fs.rmSync(path.join(place.root, "Bureau", name), { recursive: true });
      cloud.set({ fail: ["GET=403"] });
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "depot-refuses" });
    await expect(cancelSending(engine, { parcel: "Season 12" })).rejects.toMatchObject({ code: "only-copy" });
    expect(fs.readdirSync(stored())).toEqual(["Season 12"]);
    cloud.set({ fail: [] });
    await engine.lookAgain();
    expect((await send(engine, { parcel: "Season 12" })).words).toContain("nothing of it lies where it lay any more");
    expectArrived();
    await restoreParcel(engine, { parcel: "Season 12", programs: true });
    expect(untouched()).toEqual([]);
  });

  test("is read back once more where that was done long before its originals are let go", async () => {
    await engine.close();
    const clock = standingClock(Date.now());
    await open({ clock });
    let gets = 0;
    cloud.before = (method) => {
      if (method === "GET" && ++gets === 26) void pauseSending(engine, { parcel: "Season 12" });
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    cloud.before = undefined;
    const files = new ParcelFiles(engine.db, parcels(engine)[0]!.id);
    expect(files.howFar().proven).toBeGreaterThan(5);
    const [proven] = files.all().filter(({ state: how, bytes }) => how === "proven" && bytes > 0);
    // It rots, at the same size.
    const rotten = stored("Season 12", proven!.path);
    const content = fs.readFileSync(rotten);
    content[0]! ^= 1;
    fs.writeFileSync(rotten, content);
    clock.pass(2 * 86_400_000);
    await send(engine, { parcel: "Season 12" });
    expectArrived();
  });

  test("whose name is another's at the very moment of its naming does not take that one for its own, and writes nothing into it", async () => {
    cloud.before = (method) => {
      if (method !== "MOVE") return;
      cloud.before = undefined;
      // What was sent is gone, and a stranger's has the name: a server that is asked again says that there is nothing to move.
      for (const name of fs.readdirSync(stored())) fs.rmSync(stored(name), { recursive: true });
      fs.mkdirSync(stored("Season 12/data"), { recursive: true });
      fs.writeFileSync(stored("Season 12/bagit.txt"), "BagIt-Version: 1.0\n");
      fs.writeFileSync(stored("Season 12/data/theirs"), "theirs");
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "depot-refuses" });
    expectNotSent();
    await cancelSending(engine, { parcel: "Season 12" });
    expect(fs.readdirSync(stored("Season 12")).sort()).toEqual(["bagit.txt", "data"]);
    expect(fs.readdirSync(stored("Season 12/data"))).toEqual(["theirs"]);
    expect(untouched()).toEqual([]);
  });

  test("of two computers at once gets a name of its own, and none is written into by the other", async () => {
    const other = makePlace((root) => void makeRandomAccount(root, 77, 6));
    const theirs = await other.open();
    try {
      await addDepot(theirs, { location: cloud.url, title: "Cloud", ...signIn() });
      await archive(theirs, { items: idsOn(theirs), parcel: "Season 12" });
      const reports = await Promise.all([sendIt(), send(theirs, { parcel: "Season 12", depot: "Cloud" })]);
      expect(reports).toMatchObject([{ refused: [] }, { refused: [] }]);
      expect(fs.readdirSync(stored()).sort()).toEqual(["Season 12", "Season 12 (2)"]);
      for (const bag of fs.readdirSync(stored()))
        execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: stored(bag) });
    } finally {
      await theirs.close();
      other.remove();
    }
  });
});

test("how fast it went is remembered of its depot, and said before the next one is sent", async () => {
  await engine.close();
  const clock = standingClock(Date.now());
  await open({ clock });
  cloud.before = (method) => {
    if (method === "PUT") clock.pass(1000);
  };
  await sendIt();
  const [depot] = (await depotsView(engine)).depots;
  // Some three megabytes there and back, in half a minute.
  expect(depot!.rate).toBeGreaterThan(50_000);
  expect(depot!.rate).toBeLessThan(1_000_000);
});

describe("what may pass is tried again until it has arrived", () => {
  test.each([
    ["PUT=503/3"],
    ["PUT=500/4", "GET=502/3"],
    ["*=429/6+1"],
    ["PUT=423/5"],
    ["*=cut/2"],
    ["*=cut/3"],
    ["*=cut/4"],
    ["*=cut/5"],
    ["*=cut/11"],
    ["*=cut/7"],
    ["PUT=stall/15"],
    ["GET=stall/15"],
    ["PUT=short/4"],
    ["PUT=flip/7"],
    ["PUT=forget/5"],
    ["GET=flip/9"],
    ["GET=short/9"],
    ["GET=other/9"],
    ["GET=packed/6"],
    ["MKCOL=503/2"],
    ["MOVE=cut/1"],
    ["PROPFIND=absolute"],
    ["PROPFIND=plain"],
    ["PROPFIND=outside"],
    ["PROPFIND=expanding/3"],
    ["PROPFIND=endless/7"],
  ])(
    "%s %s",
    async (...fail: string[]) => {
      // A naming that is never answered would never be heard of.
      if (fail[0] === "MOVE=cut/1") {
        let moves = 0;
        cloud.before = (method) => {
          if (method === "MOVE" && ++moves > 1) cloud.set({ fail: [] });
        };
      }
      cloud.set({ fail: fail.filter(Boolean) });
      await engine.close();
      await open({ lasting: true });
      const parcel = parcels(engine)[0]!.id;
      let arrived = await sendIt().catch(() => undefined);
      while (!arrived && state() === "sending") arrived = await engine.sendings.arrival(parcel).catch(() => undefined);
      cloud.set({ fail: [] });
      expectArrived();
      expect(lastCheck(engine.db, parcel)).toMatchObject({ damaged: [] });
      // Back again from there, to the byte.
      expect(await undo(engine, {})).toMatchObject({ refused: [] });
      expect(untouched().filter((line) => !/Trash/.test(line))).toEqual([]);
    },
    // Waits are real, and every second request of the worst is cut.
    60_000,
  );
});

describe("what does not pass by itself is said, and nothing counts as sent", () => {
  test.each([
    ["PUT=401/4", "sign-in-refused"],
    ["PUT=403/4", "depot-refuses"],
    ["PUT=404/4", "depot-refuses"],
    ["PUT=409/4", "depot-refuses"],
    ["PUT=507/4", "no-space"],
    ["PUT=413/4", "no-space"],
    ["GET=403/9", "depot-refuses"],
    ["MOVE=403", "depot-refuses"],
    ["MOVE=412", "name-taken"],
    ["PUT=redirect/4", "depot-refuses"],
    ["*=redirect", "depot-refuses"],
    ["PUT=around", "depot-refuses"],
    ["PUT=forget", "depot-keeps-not"],
    ["PUT=flip", "depot-keeps-not"],
    ["PUT=short", "depot-keeps-not"],
    ["GET=other", "depot-keeps-not"],
    ["GET=flip", "depot-keeps-not"],
    ["GET=endless", "depot-keeps-not"],
  ])("%s", async (fail, code) => {
    cloud.set({ fail: [fail] });
    await expect(sendIt()).rejects.toMatchObject({ code });
    expectNotSent();
    // Of one that cannot even be reached it is said at once.
    if (fail === "*=redirect") return expect(state()).toBe("collecting");
    expect(state()).toBe("failed");
    await expectCancelled();
  });

  test("what does not answer for long is told to who waits, and goes on when it is there", async () => {
    for (const fail of ["*=cut", "MOVE=forget", "PROPFIND=endless", "PROPFIND=expanding", "PROPFIND=500"]) {
      cloud.set({ fail: [fail] });
      await expect(sendIt(), fail).rejects.toMatchObject({ code: "depot-failing" });
      expectNotSent();
    }
    cloud.set({ fail: [], down: true });
    await expect(sendIt()).rejects.toMatchObject({ facts: { place: "Cloud" } });
    expectNotSent();
    cloud.set({ down: false });
    await sendIt();
    expectArrived();
  });

  test("a full cloud, from the first or in the middle; with more room it goes on", async () => {
    for (const quota of [1000, 2_000_000]) {
      cloud.set({ quota });
      await expect(sendIt()).rejects.toMatchObject({ code: "no-space" });
      expectNotSent();
      expect(state()).toBe("failed");
    }
    cloud.set({ quota: 100_000_000 });
    await sendIt();
    expectArrived();
  });

  test("a password that was changed; with the new one it goes on, and none is written anywhere but where it is kept", async () => {
    let puts = 0;
    cloud.before = (method) => {
      if (method === "PUT" && ++puts === 6) cloud.set({ password: "kittiwake" });
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "sign-in-refused" });
    expectNotSent();
    expect(await listDepots(engine)).toMatchObject([{ state: "no sign-in" }]);
    await expect(changeSignIn(engine, { depot: "Cloud", password: "wrong" })).rejects.toMatchObject({ code: "sign-in-refused" });
    await changeSignIn(engine, { depot: "Cloud", password: "kittiwake" });
    await send(engine, { parcel: "Season 12" });
    expectArrived();
    const file = path.join(place.data, "sign-ins.json");
    expect(fs.statSync(file).mode & 0o777).toBe(0o600);
    for (const name of fs.readdirSync(place.data))
      if (name !== "sign-ins.json" && fs.statSync(path.join(place.data, name)).isFile())
        for (const password of ["gannet", "kittiwake"])
          expect(fs.readFileSync(path.join(place.data, name)).includes(password), `${password} in ${name}`).toBe(false);
  });

  test("a cloud that empties itself before the originals are let go", async () => {
    const { perform } = engine.ledger;
    engine.ledger.perform = async (makePlan, options) => {
      if (state() === "sending") {
        fs.rmSync(stored("Season 12"), { recursive: true });
        engine.ledger.perform = perform;
      }
      return perform.call(engine.ledger, makePlan, options);
    };
    const report = await sendIt().catch((error) => error);
    expect(report.done ?? 0).toBe(0);
    expectNotSent();
  });

  test("one that empties itself in the middle of reading back gets it once more", async () => {
    let gets = 0;
    cloud.before = (method) => {
      if (method === "GET" && ++gets === 12) fs.rmSync(stored("Season 12/data/tree"), { recursive: true });
    };
    await sendIt();
    expectArrived();
  });

  test("one that is empty when a parcel that had its name goes on gets all of it once more", async () => {
    let gets = 0;
    cloud.before = (method) => {
      if (method === "GET" && ++gets === 20) void pauseSending(engine, { parcel: "Season 12" });
    };
    await expect(sendIt()).rejects.toMatchObject({ code: "cancelled" });
    cloud.before = undefined;
    fs.rmSync(stored("Season 12"), { recursive: true });
    await send(engine, { parcel: "Season 12" });
    expectArrived();
  });
});

describe("killed at any request", () => {
  /** The process is gone: what it was about to ask is not asked, and what was not written down is not known. */
  test("it goes on from there, the originals lie where they lay until it has arrived, and no litter is left", async () => {
    await sendIt();
    const whole = [...cloud.counts.values()].reduce((sum, n) => sum + n, 0);
    await undo(engine, {});
    const bag = stored("Season 12");
    fs.rmSync(bag, { recursive: true });
    expect(whole).toBeGreaterThan(60);
    const step = process.env.VUOTO_TORTURE ? 1 : Math.floor(whole / 9);
    for (let at = 2; at < whole; at += step) {
      const title = `At ${at}`;
      // Named anew each time, as the one before counts as sent.
      await archive(engine, { items: idsOn(engine), parcel: title });
      let n = 0;
      cloud.before = () => {
        if (++n === at) {
          cloud.set({ down: true });
          void engine.close();
        }
      };
      await send(engine, { parcel: title, depot: "Cloud" }).catch(() => {});
      cloud.before = undefined;
      await engine.close().catch(() => {});
      cloud.set({ down: false });
      await open();
      // An act that was begun comes to its end.
      if (state() !== "sent") {
        expect(
          untouched().filter((line) => !/Trash/.test(line)),
          title,
        ).toEqual([]);
        await send(engine, { parcel: title, depot: "Cloud" });
      }
      expect(fs.readdirSync(stored()), title).toEqual([title]);
      execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: stored(title) });
      expect(bureau(), title).toEqual([]);
      expect(sendingRow(engine.db, parcels(engine)[0]!.id)).toBeUndefined();
      await undo(engine, {});
      fs.rmSync(stored(title), { recursive: true });
    }
  }, 60_000);
});

test("names of any bytes and long paths arrive and come back as they were", async () => {
  const deep = path.join(place.root, "Bureau/deep");
  fs.mkdirSync(deep);
  let folder = Buffer.from(deep);
  for (let n = 0; n < 12; n++) {
    folder = Buffer.concat([folder, Buffer.from(`/${String.fromCharCode(97 + n).repeat(230)}`)]);
    fs.mkdirSync(folder);
  }
  fs.writeFileSync(Buffer.concat([folder, Buffer.from("/leaf")]), "far down");
  const odd = Buffer.from(Array.from({ length: 255 }, (_, n) => n + 1).filter((byte) => byte !== 0x2f));
  for (const [n, part] of [
    odd.subarray(0, 120),
    odd.subarray(120),
    Buffer.from("100%25 & <b>.txt"),
    Buffer.from("?#;+ ~"),
  ].entries())
    fs.writeFileSync(Buffer.concat([Buffer.from(`${deep}/`), part]), `odd ${n}`);
  await engine.lookAgain();
  await archive(engine, { items: [itemNamed(engine, "deep").id], parcel: "Season 12" });
  before = place.tree();
  await sendIt();
  expectArrived();
  await emptyAll(engine);
  await restoreParcel(engine, { parcel: "Season 12", programs: true });
  expect(untouched().filter((line) => !/Trash/.test(line))).toEqual([]);
});
