import { execFileSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { asProblem } from "@/core/problem";
import { type Cloud, openCloud } from "@/standins/cloud/cloud";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { standingClock } from "../../../fixtures/clock";
import { differences } from "../../../fixtures/compare-trees";
import { emptyAll, idsOn, makePlace, type Place, worktopTimes } from "../../../fixtures/engine";
import { type Calls, realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import type { EngineOptions } from "../opening";
import { archive } from "../sitting/archive";
import { addDepot } from "./add";
import { check } from "./check";
import { listParcels } from "./list";
import { restoreParcel } from "./restore";
import { send } from "./send";

let place: Place;
let engine: Engine;
let before: ReturnType<Place["tree"]>;
const disk = (...parts: string[]) => path.join(place.folder, "disk", ...parts);
const bureau = () => fs.readdirSync(path.join(place.root, "Bureau"));
const untouched = () =>
  differences(before, place.tree(), worktopTimes).filter((line) => !/^new: \.local/.test(line) && !/Trash/.test(line));
const state = () => listParcels(engine)[0]?.state;
const sendTo = (depot: string) => send(engine, { parcel: "Hard", depot });

beforeEach(() => {
  place = makePlace((root) => {
    makeRandomAccount(root, 47, 8);
    fs.mkdirSync(path.join(root, "Bureau/large"));
    for (let n = 0; n < 6; n++) fs.writeFileSync(path.join(root, `Bureau/large/${n}`), Buffer.alloc(700_000, `tide ${n}`));
  });
  fs.mkdirSync(disk());
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

async function open(options?: EngineOptions): Promise<void> {
  engine = await place.open(options);
  before = place.tree();
}

async function collect(): Promise<void> {
  await addDepot(engine, { location: disk(), title: "Disk" });
  await archive(engine, { items: idsOn(engine), parcel: "Hard" });
}

/** The real calls; those that change something in the depot fail with a code, from a moment on. */
function failingInDepot(code: string, names: (keyof Calls)[]): { calls: Calls; fail: (on: boolean) => void } {
  let failing = false;
  const inDepot = new Set<number>();
  const isThere = (at: string) => at === disk() || at.startsWith(`${disk()}/`);
  const lies = (fd: number) => inDepot.has(fd) || isThere(fs.readlinkSync(`/proc/self/fd/${fd}`));
  const shown = (at: Buffer) => {
    const text = at.toString();
    const apart = /^\/proc\/self\/fd\/(\d+)(\/.*)?$/.exec(text);
    return apart ? fs.readlinkSync(`/proc/self/fd/${apart[1]}`) + (apart[2] ?? "") : text;
  };
  const calls = { ...realCalls } as Record<string, unknown>;
  for (const name of names) {
    const real = realCalls[name] as (...args: unknown[]) => unknown;
    calls[name] = (...args: unknown[]) => {
      const [first] = args;
      const there = typeof first === "number" ? lies(first) : isThere(shown(first as Buffer));
      if (failing && there) throw Object.assign(new Error(`${code}: ${name}`), { code, syscall: name });
      return real(...args);
    };
  }
  return {
    calls: calls as unknown as Calls,
    fail: (on) => {
      failing = on;
    },
  };
}

test.each([
  ["a drive that may only be read", "EROFS", ["mkdir", "write", "renameNoReplace"], "read-only"],
  ["one that has less room than it says", "ENOSPC", ["write"], "no-space"],
  ["one that fails in the middle", "EIO", ["syncFile"], undefined],
] as const)(
  "%s: nothing counts as sent, all lies where it lay; when it can be written, it goes on",
  async (_, code, names, said) => {
    const { calls, fail } = failingInDepot(code, [...names]);
    await open({ calls });
    await collect();
    before = place.tree();
    fail(true);
    const refused = await sendTo("Disk").then(
      () => undefined,
      (problem: { code: string; message: string }) => problem,
    );
    expect(refused).toBeDefined();
    if (said) expect([refused!.code, refused!.message]).toEqual([said, expect.any(String)]);
    expect(state()).not.toBe("sent");
    expect(untouched()).toEqual([]);
    fail(false);
    expect(await sendTo("Disk")).toMatchObject({ refused: [] });
    expect(bureau()).toEqual([]);
    execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: disk("Hard") });
    expect(fs.readdirSync(disk()).filter((name) => name !== "Hard" && !name.startsWith(".vuoto-depot"))).toEqual([]);
  },
);

test("where this computer's own disk has no room for the record, nothing is let go, and it goes on when there is", async () => {
  await open();
  await collect();
  before = place.tree();
  engine.db.pragma("wal_checkpoint(TRUNCATE)");
  const pages = engine.db.pragma("page_count", { simple: true }) as number;
  engine.db.pragma(`max_page_count = ${pages}`);
  const refused = await sendTo("Disk").then(() => undefined, asProblem);
  expect(refused?.code).toBe("record-full");
  engine.db.pragma("max_page_count = 1000000");
  expect(state()).not.toBe("sent");
  expect(untouched()).toEqual([]);
  expect(await sendTo("Disk")).toMatchObject({ refused: [] });
  expect(bureau()).toEqual([]);
});

test.each([
  ["years behind", Date.UTC(1999, 11, 31)],
  ["years ahead", Date.UTC(2093, 5, 1)],
])("a clock that is %s the depot's makes no difference", async (_, now) => {
  const cloud: Cloud = await openCloud(path.join(place.folder, "cloud"));
  try {
    await open({ clock: standingClock(now) });
    const { user, password } = cloud.settings;
    await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
    await archive(engine, { items: idsOn(engine), parcel: "Hard" });
    before = place.tree();
    expect(await sendTo("Cloud")).toMatchObject({ refused: [] });
    expect(bureau()).toEqual([]);
    await restoreParcel(engine, { parcel: "Hard", programs: true });
    expect(differences(before, place.tree(), worktopTimes).filter((line) => /Bureau/.test(line) && !/Trash/.test(line))).toEqual(
      [],
    );
  } finally {
    await cloud.close();
  }
});

test("a thing whose paths are too long for a cloud stays, which is said; the rest of the parcel arrives", async () => {
  const deep = path.join(place.root, "Bureau/deep", "under water ".repeat(15), "and under that ".repeat(12));
  fs.mkdirSync(deep, { recursive: true });
  fs.writeFileSync(path.join(deep, "last"), "at the bottom");
  fs.writeFileSync(path.join(place.root, "Bureau/deep/first"), "at the top");
  fs.mkdirSync(path.join(place.root, "Bureau/named"));
  fs.writeFileSync(path.join(place.root, "Bureau/named", "long name ".repeat(20)), "in a file");
  const cloud: Cloud = await openCloud(path.join(place.folder, "cloud"), { settings: { longest: 300 } });
  try {
    await open();
    const { user, password } = cloud.settings;
    await addDepot(engine, { location: cloud.url, title: "Cloud", user, password });
    await archive(engine, { items: idsOn(engine), parcel: "Hard" });
    before = place.tree();
    const report = await sendTo("Cloud");
    expect(report.refused.map(({ name, code }) => [name, code]).sort()).toEqual([
      ["deep", "path-too-long"],
      ["named", "path-too-long"],
    ]);
    expect(bureau().sort()).toEqual(["deep", "named"]);
    expect(untouched().filter((line) => /deep|named/.test(line))).toEqual([]);
    const bag = path.join(place.folder, "cloud/Hard");
    execFileSync("sha256sum", ["-c", "--quiet", "--strict", "manifest-sha256.txt"], { cwd: bag });
    expect(fs.readdirSync(path.join(bag, "data")).filter((name) => /deep|named/.test(name))).toEqual([]);
  } finally {
    await cloud.close();
  }
});

test("paths of nearly 4,000 bytes arrive, are checked, and come back as they were", async () => {
  let deep = path.join(place.root, "Bureau/deep");
  fs.mkdirSync(deep);
  const name = "n".repeat(190);
  while (deep.length + name.length + 2 < 3900) {
    deep = path.join(deep, name);
    fs.mkdirSync(deep);
  }
  fs.writeFileSync(path.join(deep, "last"), "at the bottom");
  await open();
  await collect();
  before = place.tree();
  expect(await sendTo("Disk")).toMatchObject({ refused: [] });
  expect(bureau()).toEqual([]);
  execFileSync("sha256sum", ["-c", "--quiet", "--strict", "tagmanifest-sha256.txt"], { cwd: disk("Hard") });
  expect(await check(engine, { parcel: "Hard" })).toMatchObject({ damaged: [] });
  await emptyAll(engine);
  await restoreParcel(engine, { parcel: "Hard", programs: true });
  expect(untouched()).toEqual([]);
});
