import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { afterEach, beforeEach, expect, test } from "vitest";
import { openRecord } from "../db/backup";
import type { Db } from "../db/db";
import { writeRecord } from "../db/record";
import { forgetSignIn, forgetStraySignIns, keepSignIn, signInOf } from "./sign-ins";

let folder: string;
let db: Db;
beforeEach(() => {
  folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-sign-in-")));
  db = openRecord(folder, "vuoto.sqlite").db;
});
afterEach(() => {
  db.close();
  fs.rmSync(folder, { recursive: true });
});

const file = () => path.join(folder, "sign-ins.json");
const signIn = { user: "station", password: "gannet" };

test("a sign-in is kept in a file that only the person can read, or until the end and in no file at all", () => {
  keepSignIn(db, "a", signIn, "changed");
  keepSignIn(db, "b", { ...signIn, password: "kittiwake" }, "the end");
  expect(signInOf(db, "a")).toEqual(signIn);
  expect(signInOf(db, "b")).toMatchObject({ password: "kittiwake" });
  expect(fs.statSync(file()).mode & 0o777).toBe(0o600);
  expect(fs.readFileSync(file(), "utf8")).not.toContain("kittiwake");
  // From the one place into the other it is in one alone.
  keepSignIn(db, "a", signIn, "the end");
  expect(fs.existsSync(file())).toBe(false);
  expect(signInOf(db, "a")).toEqual(signIn);
  forgetSignIn(db, "a");
  expect(signInOf(db, "a")).toBeUndefined();
});

test("a file that others could read or that is a link says nothing, and is not written through", () => {
  keepSignIn(db, "a", signIn, "changed");
  fs.chmodSync(file(), 0o644);
  expect(signInOf(db, "a")).toBeUndefined();
  const outside = path.join(folder, "outside");
  fs.writeFileSync(outside, "mine");
  fs.rmSync(file());
  fs.symlinkSync(outside, file());
  fs.symlinkSync(outside, `${file()}.new`);
  expect(signInOf(db, "a")).toBeUndefined();
  keepSignIn(db, "b", signIn, "changed");
  expect(fs.readFileSync(outside, "utf8")).toBe("mine");
  expect(fs.lstatSync(file()).isSymbolicLink()).toBe(false);
  expect(signInOf(db, "b")).toEqual(signIn);
  fs.writeFileSync(file(), "torn {");
  expect(signInOf(db, "b")).toBeUndefined();
});

test("one whose depot was never written down, as adding it was cut short, is forgotten at the next start", () => {
  keepSignIn(db, "a", signIn, "changed");
  keepSignIn(db, "b", signIn, "changed");
  writeRecord(db, "depot:a", { title: "A", kind: "cloud", url: "https://cloud.example/" });
  forgetStraySignIns(db);
  expect(signInOf(db, "a")).toEqual(signIn);
  expect(signInOf(db, "b")).toBeUndefined();
});
