import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { type Db, openDb } from "./db";
import { readRecords, writeRecord } from "./record";
import { kept } from "./revision";

let folder: string;
let db: Db;
let read: number;
beforeEach(() => {
  folder = fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-revision-"));
  db = openDb(path.join(folder, "vuoto.sqlite"));
  read = 0;
});
afterEach(() => {
  db.close();
  fs.rmSync(folder, { recursive: true });
});

const values = kept("values of a test", ["record"], (of, key) => {
  read++;
  return of.prepare<[string], string>("SELECT value FROM record WHERE key = ?").pluck().get(key);
});

test("an answer is kept until its own table changes, whichever way, and through what changes others", () => {
  const seen = () => [values(db, "a"), read];
  expect(seen()).toEqual([undefined, 1]);
  writeRecord(db, "a", 1);
  expect(seen()).toEqual(["1", 2]);
  expect(seen()).toEqual(["1", 2]);
  db.prepare("INSERT INTO position (item, x, y) VALUES ('i', 1, 2)").run();
  db.prepare("INSERT INTO figures_of_day VALUES ('2026-01-01', 'desktop', '{}')").run();
  expect(seen()).toEqual(["1", 2]);
  writeRecord(db, "a", 2);
  expect(seen()).toEqual(["2", 3]);
  writeRecord(db, "a", null);
  expect(seen()).toEqual([undefined, 4]);
  expect([values(db, "b"), read]).toEqual([undefined, 5]);
  expect(seen()).toEqual([undefined, 5]);
});

test("what a transaction reads is not kept, and after it was rolled back the answer is as before", () => {
  writeRecord(db, "a", 1);
  expect(values(db, "a")).toBe("1");
  const fails = db.transaction(() => {
    writeRecord(db, "a", 2);
    expect(values(db, "a")).toBe("2");
    throw new Error("rolled back");
  });
  expect(fails).toThrow("rolled back");
  expect(values(db, "a")).toBe("1");
});

test("a folder that was merely walked again is no change", () => {
  const walks = kept("walks of a test", ["folder"], () => ++read);
  const insert = "INSERT INTO folder (place, key, home, files, state, walk) VALUES (x'2f61', 'k', 1, 0, 's', 1)";
  db.prepare(insert).run();
  const before = walks(db, "");
  db.prepare("UPDATE folder SET walk = 2").run();
  expect(walks(db, "")).toBe(before);
  db.prepare("UPDATE folder SET files = 3").run();
  expect(walks(db, "")).toBe(before + 1);
});

test("records of a kind are read once for everybody, and anew when one is written", () => {
  writeRecord(db, "verdict:a", { verdict: "stay" });
  const first = readRecords(db, "verdict");
  expect(readRecords(db, "verdict")).toBe(first);
  writeRecord(db, "verdict:b", { verdict: "wait" });
  expect([...readRecords(db, "verdict").keys()]).toEqual(["a", "b"]);
  expect([...first.keys()]).toEqual(["a"]);
});
