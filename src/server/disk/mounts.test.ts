import { EventEmitter } from "node:events";
import fs from "node:fs";
import path from "node:path";
import { afterEach, beforeEach, expect, test, vi } from "vitest";
import { rawFromText } from "@/core/names/raw";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import { addDepot } from "../depots/add";
import { depotsView } from "../depots/view";
import { addHomes } from "../homes/add";
import { emptying } from "../ledger/empty";
import { trashList } from "../ledger/trash-list";
import { undo } from "../ledger/undo";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";
import { protect } from "../survey/protect";
import { realFolder } from "./around";
import { type Calls, realCalls } from "./calls";
import { answers, askMounts } from "./mounts";

// The child that asks, played: it hangs, until the other side is there again.
const hanging = vi.hoisted(() => ({ now: false, children: [] as { emit(name: string, code: number): boolean }[] }));
vi.mock("node:child_process", async (load) => {
  const real = await load<typeof import("node:child_process")>();
  return {
    ...real,
    spawn(...words: Parameters<typeof real.spawn>) {
      if (words[0] !== "stat") return real.spawn(...words);
      const child = Object.assign(new EventEmitter(), { kill: () => true, unref: () => undefined });
      hanging.children.push(child);
      if (!hanging.now) setImmediate(() => child.emit("exit", 0));
      return child;
    },
  };
});

let place: Place;
/** What is mounted over a network, for this test. */
const share = () => path.join(place.folder, "overseas");
const touched: string[] = [];
let run = 0;
/** Calls that come near the share, by whatever way: one of them would never come back. */
const calls = new Proxy(realCalls, {
  get(target, name: keyof Calls) {
    const call = target[name] as (...args: unknown[]) => unknown;
    return (...args: unknown[]) => {
      const [at] = args;
      const where = Buffer.isBuffer(at) ? at.toString() : "";
      if (hanging.now && where.includes("overseas")) touched.push(`${name} ${where}`);
      return call(...args);
    };
  },
});

beforeEach(() => {
  place = makePlace((root) => void makeRandomAccount(root, 5, 6));
  fs.mkdirSync(path.join(share(), "depot"), { recursive: true });
  fs.mkdirSync(path.join(share(), "home"));
  const read = fs.readFileSync;
  vi.spyOn(fs, "readFileSync").mockImplementation(((file: string, ...more: unknown[]) =>
    file === "/proc/self/mountinfo"
      ? `${read(file, "latin1")}99 1 0:99 / ${share()} rw - nfs4 server.example:/share rw\n`
      : read(file, ...(more as []))) as typeof fs.readFileSync);
  vi.useFakeTimers({ toFake: ["performance", "setTimeout", "clearTimeout"] });
  // Past what was listed for the test before.
  vi.advanceTimersByTime(100_000 * ++run);
  hanging.now = false;
  touched.length = 0;
});
afterEach(() => {
  vi.useRealTimers();
  vi.restoreAllMocks();
  place.remove();
});
const at = (name: string) => rawFromText(path.join(share(), name));

test("a mount over a network is asked by a child; where that hangs it is left behind, and nothing there is touched", async () => {
  await askMounts();
  expect(answers(at("home"))).toBe(true);
  expect(realFolder(at("home"))).toBe(at("home"));
  hanging.now = true;
  const asked = askMounts();
  await vi.advanceTimersByTimeAsync(2100);
  await asked;
  expect(answers(at("home"))).toBe(false);
  expect(answers(rawFromText(place.root))).toBe(true);
  expect(realFolder(at("home"))).toBeUndefined();
  // No second child waits beside the one that hangs.
  const { length } = hanging.children;
  await askMounts();
  expect(hanging.children).toHaveLength(length);
  hanging.children.at(-1)!.emit("exit", 0);
  expect(answers(at("home"))).toBe(true);
});

test("acts and questions go on while what is mounted hangs: a depot, a protected place and the trash on it are passed over, and said", async () => {
  const engine = await place.open({ calls });
  vi.useRealTimers();
  await addDepot(engine, { location: path.join(share(), "depot"), title: "Share" });
  await protect(engine, { folder: path.join(share(), "home"), protection: "backed up" });
  hanging.now = true;
  const asked = askMounts();
  await asked;
  expect(answers(at("home"))).toBe(false);
  const [a, b] = idsOn(engine);
  expect(await letGo(engine, { items: [a!] })).toMatchObject({ done: 1, refused: [] });
  expect(await archive(engine, { items: [b!], parcel: "P" })).toMatchObject({ refused: [] });
  expect(trashList(engine)).toHaveLength(1);
  expect(await emptying(engine)).toMatchObject({ count: 1 });
  await engine.lookAgain("all");
  expect(engine.unwalked).toContainEqual({ folder: at("home"), why: "unreadable" });
  const [depot] = (await depotsView(engine)).depots;
  expect(depot).toMatchObject({ title: "Share", state: "away" });
  await expect(addHomes(engine, { homes: [{ folder: btoa(path.join(share(), "home")) }] })).rejects.toThrow();
  expect(await undo(engine, { entry: "all" })).toMatchObject({ done: expect.any(Number) });
  await engine.close();
  expect(touched).toEqual([]);
});
