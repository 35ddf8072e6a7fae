import fs from "node:fs";
import path from "node:path";
import { z } from "zod";
import type { Db } from "../db/db";
import { readRecord } from "../db/record";
import { sharedMemory } from "../shared";
import type { SignIn } from "./store";

const fileName = "sign-ins.json";
const stored = z.record(z.string(), z.object({ user: z.string(), password: z.string() }));

/** Those that are kept until Vuoto ends, by depot. */
const inSession = sharedMemory<Db, Map<string, SignIn>>("sign-ins");

const fileOf = (db: Db) => path.join(/* turbopackIgnore: true */ path.dirname(db.name), fileName);

/** Those that are kept in the file, which only the person can read. */
function inFile(db: Db): Record<string, SignIn> {
  let fd: number;
  try {
    fd = fs.openSync(fileOf(db), fs.constants.O_RDONLY | fs.constants.O_NOFOLLOW);
  } catch {
    return {};
  }
  try {
    const stat = fs.fstatSync(fd);
    if (!stat.isFile() || stat.uid !== process.geteuid?.() || (stat.mode & 0o077) !== 0) return {};
    return stored.parse(JSON.parse(fs.readFileSync(fd, "utf8")));
  } catch {
    return {};
  } finally {
    fs.closeSync(fd);
  }
}

function writeFile(db: Db, signIns: Record<string, SignIn>): void {
  const file = fileOf(db);
  if (Object.keys(signIns).length === 0) {
    fs.rmSync(file, { force: true });
    return;
  }
  fs.rmSync(`${file}.new`, { force: true });
  fs.writeFileSync(`${file}.new`, JSON.stringify(signIns), { mode: 0o600, flag: "wx", flush: true });
  fs.renameSync(`${file}.new`, file);
}

/** What a depot is signed in with, where that is known. */
export const signInOf = (db: Db, depot: string): SignIn | undefined => inSession.get(db)?.get(depot) ?? inFile(db)[depot];

/** Keeps a sign-in, in the file or until Vuoto ends; in the other place it is forgotten. */
export function keepSignIn(db: Db, depot: string, signIn: SignIn, until: "changed" | "the end"): void {
  forgetSignIn(db, depot);
  if (until === "changed") writeFile(db, { ...inFile(db), [depot]: signIn });
  else inSession.set(db, (inSession.get(db) ?? new Map()).set(depot, signIn));
}

export function forgetSignIn(db: Db, depot: string): void {
  inSession.get(db)?.delete(depot);
  const { [depot]: gone, ...others } = inFile(db);
  if (gone) writeFile(db, others);
}

/** Forgets those of depots that are in no record: where an adding was cut short between the two. */
export function forgetStraySignIns(db: Db): void {
  const all = inFile(db);
  const known = Object.fromEntries(Object.entries(all).filter(([depot]) => readRecord(db, `depot:${depot}`) !== null));
  if (Object.keys(known).length < Object.keys(all).length) writeFile(db, known);
}
