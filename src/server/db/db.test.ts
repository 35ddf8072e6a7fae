import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import Database from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, test } from "vitest";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { makePlace } from "../../../fixtures/engine";
import { olderRecord } from "../../../fixtures/records";
import { ledgerList } from "../ledger/list";
import { undo } from "../ledger/undo";
import { migrations, openDb } from "./db";
import { takeLock } from "./lock";
import { readScreen } from "./record";

let folder: string;
beforeEach(() => {
  folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-db-"));
});
afterEach(() => fs.rmSync(folder, { recursive: true }));

describe("the record", () => {
  test("is made, written through, and brought to the newest version once", () => {
    const file = path.join(folder, "a.sqlite");
    const db = openDb(file);
    expect(db.pragma("user_version", { simple: true })).toBe(migrations().at(-1)!.version);
    expect(db.pragma("journal_mode", { simple: true })).toBe("wal");
    expect(db.pragma("synchronous", { simple: true })).toBe(2);
    db.exec("INSERT INTO record VALUES ('setting:x', '1')");
    db.close();
    const again = openDb(file);
    expect(again.prepare("SELECT value FROM record WHERE key = 'setting:x'").pluck().get()).toBe("1");
    again.close();
  });
  test("of a newer version is refused, and left as it was", () => {
    const file = path.join(folder, "a.sqlite");
    const newer = new Database(file);
    newer.pragma("user_version = 999");
    newer.close();
    const before = fs.readFileSync(file);
    expect(() => openDb(file)).toThrow(
      expect.objectContaining({ code: "newer-database", message: expect.stringContaining("Nothing was changed") }),
    );
    expect(fs.readFileSync(file).subarray(60, 64)).toEqual(before.subarray(60, 64));
  });
  test("that is no record is said", () => {
    const file = path.join(folder, "a.sqlite");
    fs.writeFileSync(file, "this is no database, and quite long enough to be looked at as one".repeat(20));
    expect(() => openDb(file)).toThrow(expect.objectContaining({ code: "damaged-database" }));
  });
  test("names and paths keep their bytes", () => {
    const db = openDb(path.join(folder, "a.sqlite"));
    const name = Buffer.from([0x61, 0xff, 0x0a]);
    db.prepare("INSERT INTO folder VALUES (1, ?, 'x', 1, 0, '', 0)").run(name);
    expect(db.prepare("SELECT place FROM folder").pluck().get()).toEqual(name);
    db.close();
  });
});

test.each([
  {
    version: 1,
    words: "Put kept.txt into Documents / New",
    done: 4,
    desktop: ["gone.txt", "hidden.txt", "kept.txt", "stays.txt"],
  },
  {
    version: 5,
    words: "Archived sent.txt to depot in the parcel “Old”",
    done: 11,
    desktop: ["gone.txt", "hidden.txt", "kept.txt", "page.txt", "sent.txt", "stays.txt"],
  },
])("entries of a record of version $version are listed, and undone by this one", async ({ version, words, done, desktop }) => {
  const place = makePlace(() => {});
  olderRecord(version, place.root, place.data);
  const engine = await place.open();
  expect(engine.db.pragma("user_version", { simple: true })).toBe(migrations().at(-1)!.version);
  expect(ledgerList(engine).map((entry) => entry.words)).toContain(words);
  expect(readScreen(engine.db).shown).toMatchObject({ level: "what stays", since: expect.any(Number) });
  expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [], done });
  expect(fs.readdirSync(path.join(place.root, "Desktop")).sort()).toEqual(desktop);
  expect(fs.readdirSync(path.join(place.root, "Documents"))).toEqual([]);
  expect(readScreen(engine.db).shown.level).toBe("everything");
  expect(engine.db.prepare("SELECT value FROM record WHERE key LIKE 'verdict:%'").all()).toEqual([]);
  await engine.close();
  place.remove();
});

describe("the account's lock", () => {
  test("is held by one, and free again at once when that one ends", () => {
    const first = takeLock(folder);
    expect(first).toBeDefined();
    expect(takeLock(folder)).toBeUndefined();
    first!.release();
    const second = takeLock(folder);
    expect(second).toBeDefined();
    second!.release();
  });
  test("a second engine on the account is refused and disturbs nothing", async () => {
    const place = makePlace((root) => void makeRandomAccount(root, 1, 3));
    const engine = await place.open();
    await expect(place.recover()).rejects.toMatchObject({ code: "account-busy" });
    await engine.close();
    await (await place.recover()).close();
    place.remove();
  });
});
