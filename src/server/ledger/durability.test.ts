import fs from "node:fs";
import path from "node:path";
import { afterEach, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import { addDepot } from "../depots/add";
import { send } from "../depots/send";
import { type Calls, realCalls } from "../disk/calls";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { archive } from "../sitting/archive";
import { letGo } from "../sitting/let-go";

let place: Place;
let engine: Engine;
afterEach(async () => {
  await engine.close();
  place.remove();
});

const things = 40;

/** The calls of an act in order, commits of the record among them. */
async function recording(act: (e: Engine) => Promise<unknown>, before?: (e: Engine) => Promise<unknown>): Promise<string[]> {
  place = makePlace((root) => void makeRandomAccount(root, 23, things));
  fs.mkdirSync(path.join(place.folder, "disk"));
  const order: string[] = [];
  const calls = Object.fromEntries(
    Object.entries(realCalls).map(([name, call]) => [
      name,
      (...args: unknown[]) => {
        order.push(name);
        return (call as (...a: unknown[]) => unknown)(...args);
      },
    ]),
  ) as unknown as Calls;
  engine = await place.open({ calls });
  await before?.(engine);
  const { transaction } = engine.db;
  engine.db.transaction = ((work: (...args: unknown[]) => unknown) =>
    transaction.call(engine.db, (...args: unknown[]) => {
      const answer = work(...args);
      order.push("commit");
      return answer;
    })) as typeof transaction;
  order.length = 0;
  await act(engine);
  return order.filter(
    (name) => !["open", "close", "fstat", "lstat", "locate", "readdir", "readlink", "listXattrs", "getXattr"].includes(name),
  );
}

const count = (order: string[], name: string) => order.filter((n) => n === name).length;

test("putting away: intent, renames, each folder once, outcome", async () => {
  const order = await recording((e) => put(e, { home: { title: "New" }, items: idsOn(e) }));
  expect(order[0]).toBe("commit");
  expect(order.at(-1)).toBe("commit");
  expect(count(order, "commit")).toBe(2);
  expect(count(order, "renameNoReplace")).toBe(things);
  // The desktop, the new home and the folder it was made in.
  expect(count(order, "fsync")).toBe(3);
  expect(order.indexOf("fsync")).toBeGreaterThan(order.lastIndexOf("renameNoReplace"));
  expect(order.lastIndexOf("fsync")).toBeLessThan(order.length - 1);
});

test("letting go: every info file before its rename, one syncfs for all of them, then the folders", async () => {
  const order = await recording((e) => letGo(e, { items: idsOn(e) }));
  const steps = order.filter((name) => name === "write" || name === "renameNoReplace");
  expect(steps).toEqual(Array.from({ length: things }, () => ["write", "renameNoReplace"]).flat());
  expect(count(order, "syncfs")).toBe(1);
  expect(order.indexOf("syncfs")).toBeGreaterThan(order.lastIndexOf("renameNoReplace"));
  expect(order.indexOf("fsync")).toBeGreaterThan(order.indexOf("syncfs"));
  expect(count(order, "fsync")).toBeLessThanOrEqual(8);
  expect(order.slice(-1)).toEqual(["commit"]);
});

test("sending: every file synced, then the bag's name, then all read back past the cache; the originals after that", async () => {
  const order = await recording(
    (e) => send(e, { parcel: "P", depot: "Disk" }),
    async (e) => {
      await addDepot(e, { location: path.join(place.folder, "disk"), title: "Disk" });
      await archive(e, { items: idsOn(e), parcel: "P" });
    },
  );
  const named = order.indexOf("renameNoReplace");
  const files = order.slice(0, named).filter((name) => name === "syncFile").length;
  expect(files).toBeGreaterThanOrEqual(things);
  expect(order.slice(0, named)).toContain("syncfs");
  const firstGone = named + 1 + order.slice(named + 1).indexOf("renameNoReplace");
  const readBack = order.slice(named, firstGone).filter((name) => name === "dropCache").length;
  expect(readBack).toBeGreaterThanOrEqual(things + 5);
  // The bag's name is durable before the first original goes.
  expect(order[named + 1]).toBe("fsync");
  expect(count(order.slice(named + 1), "renameNoReplace")).toBe(things);
});
