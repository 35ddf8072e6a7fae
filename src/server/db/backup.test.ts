import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { gunzipSync, gzipSync } from "node:zlib";
import Database from "better-sqlite3";
import { afterEach, beforeEach, describe, expect, test, vi } from "vitest";
import { asProblem } from "@/core/problem";
import { makeRandomAccount } from "../../../fixtures/accounts";
import { standingClock } from "../../../fixtures/clock";
import { idsOn, makePlace, type Place } from "../../../fixtures/engine";
import { olderRecord } from "../../../fixtures/records";
import type { Engine } from "../engine";
import { put } from "../homes/put";
import { writeBackup } from "../jobs/work/write-backup";
import { ledgerList } from "../ledger/list";
import { undo } from "../ledger/undo";
import { recordName } from "../opening";
import { occasionList } from "../quiet/occasions";
import { quietStatus } from "../quiet/status";
import { keepCopies } from "../serving";
import { backup, keepDailyCopy } from "../settings/backup";
import { letGo } from "../sitting/let-go";
import { stay } from "../sitting/stay";
import { verdictsInForce } from "../sitting/verdict";
import { itemsOn } from "../survey/items";
import { copies, copyOfDay, keptTables, leftTables, readBackup } from "./backup";
import { newestVersion, openDb } from "./db";
import { readScreen } from "./record";

let place: Place;
let engine: Engine;
const record = () => path.join(place.data, recordName);
beforeEach(async () => {
  place = makePlace((root) => void makeRandomAccount(root, 3, 8));
  engine = await place.open();
});
afterEach(async () => {
  await engine.close();
  place.remove();
});

/** Waits for what happens by itself. */
const until = (holds: () => boolean) => vi.waitFor(() => expect(holds()).toBe(true), { timeout: 10_000, interval: 10 });

const entries = () => ledgerList(engine).map(({ id, words, state }) => [id, words, state]);
async function work() {
  const [a, b, c] = idsOn(engine);
  await put(engine, { home: { title: "New / Deep" }, items: [a!] });
  await letGo(engine, { items: [b!] });
  await stay(engine, { items: [c!] });
  return c!;
}

describe("a copy of the record", () => {
  test.each(["copy.ndjson", "copy.ndjson.gz"])("read back (%s) is the record: acts are undone, verdicts hold", async (name) => {
    const before = place.tree();
    const stays = await work();
    const said = entries();
    const file = path.join(place.folder, name);
    expect((await backup(engine, { file })).rows).toBeGreaterThan(10);
    expect(fs.statSync(file).mode & 0o777).toBe(0o600);
    await engine.close();
    for (const end of ["", "-wal", "-shm"]) fs.rmSync(record() + end, { force: true });
    expect(await readBackup(file, place.data, recordName)).toEqual({ kept: undefined });
    engine = await place.open();
    expect(entries()).toEqual(said);
    expect(verdictsInForce(engine).get(stays)).toMatchObject({ verdict: "stay" });
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [], done: 3 });
    const changed = [...before].filter(([rel, entry]) => place.tree().get(rel)?.content !== entry.content);
    expect(changed).toEqual([]);
  });

  test("is made for each day, also where Vuoto runs for days; seven are kept", async () => {
    await work();
    await engine.close();
    const clock = standingClock(Date.UTC(2026, 10, 20, 12));
    engine = await place.open({ clock });
    keepCopies(engine);
    const days = () => copies(place.data).map((file) => path.basename(file).slice(0, 10));
    await until(() => days().length === 1);
    clock.pass(3_600_000);
    expect(days()).toEqual(["2026-11-20"]);
    for (let day = 21; day <= 29; day++) {
      for (let hour = 0; hour < 24; hour++) {
        clock.pass(3_600_000);
        await new Promise(setImmediate);
      }
      await until(() => days()[0] === `2026-11-${day}`);
    }
    await until(() => days().length === 7);
    expect(days().at(-1)).toBe("2026-11-23");
  });

  test("replaces nothing, and lies where a folder may be named", async () => {
    const file = path.join(place.folder, "mine.txt");
    fs.writeFileSync(file, "mine");
    fs.writeFileSync(`${file}.new`, "mine too");
    await expect(backup(engine, { file })).rejects.toMatchObject({ code: "name-taken" });
    await expect(backup(engine, { file: path.join(place.folder, "none", "a") })).rejects.toMatchObject({ code: "folder-gone" });
    await expect(backup(engine, { file: "~/.config/a" })).rejects.toMatchObject({ code: "place-unsuitable" });
    await expect(backup(engine, { file: "/etc/a" })).rejects.toMatchObject({ code: "place-unsuitable" });
    expect([file, `${file}.new`].map((name) => fs.readFileSync(name, "utf8"))).toEqual(["mine", "mine too"]);
    expect(await backup(engine, { file: "Papers.ndjson" })).toMatchObject({ file: path.join(place.root, "Papers.ndjson") });
    expect(fs.readdirSync(place.root).filter((name) => name.includes(".new"))).toEqual([]);
  });

  test("on a file system without hard links is whole, replaces nothing, and is not left half written", async () => {
    await work();
    const file = path.join(place.folder, "copy.ndjson");
    const write = () =>
      writeBackup({ record: record(), file, now: 0 }, { tell: () => undefined, cancelled: () => false }).finally(() =>
        expect(fs.readdirSync(place.folder).filter((name) => name.endsWith(".new"))).toEqual([]),
      );
    const failing = (code: string) => () => {
      throw Object.assign(new Error(code), { code, syscall: "write" });
    };
    const link = vi.spyOn(fs, "linkSync").mockImplementation(failing("EPERM"));
    try {
      await write();
      expect(fs.readFileSync(file, "utf8").trimEnd().split("\n").length).toBeGreaterThan(10);
      fs.rmSync(file);
      link.mockImplementation(() => {
        fs.writeFileSync(file, "came meanwhile");
        failing("EPERM")();
      });
      await expect(write()).rejects.toMatchObject({ code: "name-taken" });
      expect(fs.readFileSync(file, "utf8")).toBe("came meanwhile");
      fs.rmSync(file);
      link.mockImplementation(failing("EPERM"));
      vi.spyOn(fs, "createReadStream").mockImplementation(failing("ENOSPC"));
      await expect(write()).rejects.toMatchObject({ code: "no-space" });
      expect(fs.existsSync(file)).toBe(false);
    } finally {
      vi.restoreAllMocks();
    }
  });

  test("that is none, is cut short or is of a newer version is refused, and the record stays", async () => {
    await work();
    const said = entries();
    const file = path.join(place.folder, "copy.ndjson");
    await backup(engine, { file });
    const whole = fs.readFileSync(file, "utf8");
    await engine.close();
    for (const text of [
      "",
      "letter",
      "{}",
      whole.slice(0, -20),
      whole.replace(/"version":\d+/, '"version":999'),
      whole.replace('"table":"step"', '"table":"session"'),
    ]) {
      fs.writeFileSync(file, text);
      await expect(readBackup(file, place.data, recordName), text.slice(0, 20)).rejects.toMatchObject({ code: "no-backup" });
    }
    engine = await place.open();
    expect(entries()).toEqual(said);
    expect(fs.readdirSync(place.data).filter((name) => /read|new$/.test(name))).toEqual([]);
  });

  test("is kept for each day, seven of them", async () => {
    await work();
    await keepDailyCopy(engine);
    const [today] = copies(place.data);
    expect(gunzipSync(fs.readFileSync(today!)).toString().split("\n")[0]).toContain('"vuoto":"backup"');
    for (let day = 1; day <= 9; day++) fs.copyFileSync(today!, copyOfDay(place.data, `2020-01-0${day}`));
    fs.rmSync(today!);
    await keepDailyCopy(engine);
    expect(copies(place.data).map((file) => path.basename(file))).toEqual([
      path.basename(today!),
      ...[9, 8, 7, 6, 5, 4].map((day) => `2020-01-0${day}.ndjson.gz`),
    ]);
  });
});

/** Every table's rows, each as JSON; of the tables of the newest version. */
function rowsIn(file: string, tables: readonly string[]): Record<string, string[]> {
  const db = new Database(file, { readonly: true });
  try {
    const rows = (table: string) =>
      db
        .prepare(`SELECT * FROM ${table}`)
        .all()
        .map((row) => JSON.stringify(row))
        .sort();
    return Object.fromEntries(tables.map((table) => [table, rows(table)]));
  } finally {
    db.close();
  }
}

/** A copy as a Vuoto of the record's own version wrote it: every table that it had and that is kept. */
function copyOf(file: string): string {
  const db = new Database(file, { readonly: true });
  try {
    const has = db.prepare<[], string>("SELECT name FROM sqlite_schema WHERE type = 'table'").pluck().all();
    const cell = (value: unknown) => (Buffer.isBuffer(value) ? { base64: value.toString("base64") } : value);
    const rows = keptTables
      .filter((table) => has.includes(table))
      .flatMap((table) =>
        db
          .prepare<[], Record<string, unknown>>(`SELECT * FROM ${table}`)
          .all()
          .map((row) => ({ table, row: Object.fromEntries(Object.entries(row).map(([name, value]) => [name, cell(value)])) })),
      );
    const head = { vuoto: "backup", version: db.pragma("user_version", { simple: true }), madeAt: "2026-11-20T00:00:00.000Z" };
    return [head, ...rows].map((line) => `${JSON.stringify(line)}\n`).join("");
  } finally {
    db.close();
  }
}

describe("a copy of an older version", () => {
  test("leaves out no table but those of which it is said why", () => {
    const all = engine.db.prepare<[], string>("SELECT name FROM sqlite_schema WHERE type = 'table' AND name NOT LIKE 'sqlite%'");
    expect([...keptTables, ...Object.keys(leftTables)].sort()).toEqual(all.pluck().all().sort());
  });

  test.each(Array.from({ length: newestVersion() }, (_, n) => n + 1))(
    "%i: read back by either way it is the record, upgraded; quiet is told, and every act is undone",
    async (version) => {
      const old = makePlace(() => {});
      try {
        const file = olderRecord(version, old.root, old.data);
        const copy = copyOf(file);
        const upgraded = path.join(old.folder, "upgraded.sqlite");
        fs.copyFileSync(file, upgraded);
        openDb(upgraded).close();
        const expected = rowsIn(upgraded, keptTables);
        expect(Object.values(expected).filter((rows) => rows.length > 0).length).toBeGreaterThanOrEqual(version < 13 ? 5 : 15);

        const named = path.join(old.folder, "copy.ndjson");
        fs.writeFileSync(named, copy);
        expect((await readBackup(named, old.data, recordName)).kept).toBeDefined();
        expect(rowsIn(file, keptTables)).toEqual(expected);

        fs.rmSync(file);
        fs.mkdirSync(path.dirname(copyOfDay(old.data, "2026-11-20")));
        fs.writeFileSync(copyOfDay(old.data, "2026-11-20"), gzipSync(copy));
        const opened = await old.open();
        try {
          expect(opened.recovered[0]).toContain("made anew from the copy of 2026-11-20");
          expect(readScreen(opened.db).shown).toMatchObject({ level: "what stays", since: expect.any(Number), kinds: [] });
          expect(quietStatus(opened)).toMatchObject({ hidden: true, level: "what stays" });
          const titles = occasionList(opened).map(({ title }) => title);
          expect(titles).toEqual(expect.arrayContaining(["presenting", "sharing the screen"]));
          expect(await undo(opened, { entry: "all" })).toMatchObject({ refused: [] });
          expect(readScreen(opened.db).shown.level).toBe("everything");
        } finally {
          await opened.close();
        }
      } finally {
        old.remove();
      }
    },
  );
});

describe("a record that is damaged", () => {
  test("is put aside, and opened from the newest copy that can be read; that is said", async () => {
    await work();
    await keepDailyCopy(engine);
    const said = entries();
    await engine.close();
    fs.writeFileSync(copyOfDay(place.data, "2999-01-01"), "damaged too");
    fs.writeFileSync(record(), Buffer.alloc(50_000, 7));
    for (const end of ["-wal", "-shm"]) fs.rmSync(record() + end, { force: true });
    engine = await place.open();
    expect(engine.recovered[0]).toMatch(/could not be read; it is kept as .*damaged-.* made anew from the copy of/);
    expect(entries()).toEqual(said);
    expect(fs.readdirSync(place.data).some((name) => name.startsWith("vuoto.sqlite.damaged-"))).toBe(true);
    expect(await undo(engine, { entry: "all" })).toMatchObject({ refused: [] });
  });

  test("of which only its log was left, as by a crash: that is not played into the new one, and is kept", async () => {
    await work();
    await keepDailyCopy(engine);
    const said = entries();
    const wal = fs.readFileSync(`${record()}-wal`);
    expect(wal.length).toBeGreaterThan(0);
    await engine.close();
    fs.rmSync(record());
    fs.writeFileSync(`${record()}-wal`, wal);
    engine = await place.open();
    expect(entries()).toEqual(said);
    expect(engine.db.pragma("integrity_check", { simple: true })).toBe("ok");
    const kept = fs.readdirSync(place.data).find((name) => /damaged-.*-wal$/.test(name));
    expect(fs.readFileSync(path.join(place.data, kept!)).equals(wal)).toBe(true);
  });

  test("or gone is opened from a copy too; without one it is said, and stays as it is", async () => {
    await work();
    await keepDailyCopy(engine);
    await engine.close();
    for (const end of ["", "-wal", "-shm"]) fs.rmSync(record() + end, { force: true });
    engine = await place.open();
    expect(engine.recovered[0]).toContain("was gone");
    await engine.close();
    fs.rmSync(path.join(place.data, "backups"), { recursive: true });
    fs.writeFileSync(record(), Buffer.alloc(50_000, 7));
    for (const end of ["-wal", "-shm"]) fs.rmSync(record() + end, { force: true });
    await expect(place.open()).rejects.toMatchObject({ code: "damaged-database" });
    expect(fs.readFileSync(record())[0]).toBe(7);
    fs.rmSync(record());
    engine = await place.open();
  });
});

describe("a record that cannot be written", () => {
  test("as it was deleted while Vuoto ran: nothing is done, questions are answered", async () => {
    const before = place.tree();
    const [a] = idsOn(engine);
    fs.rmSync(record());
    await expect(letGo(engine, { items: [a!] })).rejects.toMatchObject({ code: "record-gone" });
    expect([...place.tree().keys()]).toEqual([...before.keys()]);
    expect(itemsOn(engine.db, "desktop")).toHaveLength(8);
  });

  test("as it became read-only: one clear sentence, nothing done, questions are answered", async () => {
    const before = place.tree();
    const [a] = idsOn(engine);
    engine.db.pragma("query_only = ON");
    expect(await letGo(engine, { items: [a!] }).catch(asProblem)).toMatchObject({ code: "record-read-only" });
    expect([...place.tree().keys()]).toEqual([...before.keys()]);
    expect(itemsOn(engine.db, "desktop")).toHaveLength(8);
    engine.db.pragma("query_only = OFF");
    expect(await letGo(engine, { items: [a!] })).toMatchObject({ done: 1, refused: [] });
  });

  test("as it is full: one clear sentence, nothing done, and it goes on once there is room", async () => {
    const before = place.tree();
    const [a] = idsOn(engine);
    const pages = engine.db.pragma("page_count", { simple: true }) as number;
    engine.db.exec("CREATE TABLE filler (x BLOB)");
    engine.db.pragma(`max_page_count = ${pages + 1}`);
    let said: unknown;
    // Until no free page is left.
    for (let n = 0; n < 300 && !said; n++) said = await stay(engine, { items: [a!] }).then(() => undefined, asProblem);
    expect(said).toMatchObject({ code: "record-full", title: "There is no room left for Vuoto's own record." });
    expect([...place.tree().keys()]).toEqual([...before.keys()]);
    expect(itemsOn(engine.db, "desktop")).toHaveLength(8);
    engine.db.pragma("max_page_count = 1000000");
    expect(await letGo(engine, { items: [a!] })).toMatchObject({ done: 1, refused: [] });
  });
});

test("an entry that is not understood holds up no other, neither at the start nor in an undo", async () => {
  await work();
  const [latest] = ledgerList(engine);
  engine.db.prepare("UPDATE step SET version = 99 WHERE entry = ?").run(latest!.id);
  await expect(undo(engine, { entry: latest!.id })).rejects.toMatchObject({ code: "entry-unknown" });
  expect(await undo(engine, { entry: 1 })).toMatchObject({ refused: [], done: 1 });
  engine.db.prepare("UPDATE entry SET state = 'running' WHERE id = ?").run(latest!.id);
  await engine.close();
  engine = await place.open();
  expect(engine.recovered.join()).toContain("not settled yet");
  expect(await undo(engine, { entry: 2 })).toMatchObject({ refused: [], done: 1 });
});

test("a data folder that was open to others is closed; one that holds other things is refused and left as it is", async () => {
  await engine.close();
  fs.chmodSync(place.data, 0o755);
  for (const name of fs.readdirSync(place.data)) if (name !== "pictures") fs.chmodSync(path.join(place.data, name), 0o644);
  engine = await place.open();
  expect(fs.statSync(place.data).mode & 0o777).toBe(0o700);
  for (const name of fs.readdirSync(place.data)) expect(fs.statSync(path.join(place.data, name)).mode & 0o077, name).toBe(0);
  const theirs = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-theirs-"));
  fs.chmodSync(theirs, 0o755);
  fs.writeFileSync(path.join(theirs, "letter"), "", { mode: 0o644 });
  const { openAccount } = await import("../account");
  expect(() => openAccount({ root: place.root as never, data: theirs })).toThrow(
    expect.objectContaining({ code: "data-unsuitable" }),
  );
  expect([fs.statSync(theirs).mode & 0o777, fs.statSync(path.join(theirs, "letter")).mode & 0o777]).toEqual([0o755, 0o644]);
  fs.rmSync(theirs, { recursive: true });
});
