import Database from "better-sqlite3";
import { type FiledThing, type Fit, type Learned, learn, type RankOptions, rank } from "@/core/homes/belongs";
import type { Thing } from "@/core/homes/traits";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { WorkContext } from "../work-context";
import { filedThings } from "./filed-things";

/** A thing whose homes are asked for. */
export interface AskedThing extends Omit<RankOptions, "among"> {
  thing: Thing;
  /** Only these homes, by their ids. */
  among?: string[];
}

export interface LearnHomes {
  /** Under which name what is learned is remembered here: the account's folder. */
  account: string;
  /** The record, which is only read: what lies in the homes. */
  record: string;
  /** What lies in an area, and waits to be put finer. */
  waiting: ReadonlySet<Raw>;
  /** What else is learned from: that things do not belong where they were put. */
  against: FiledThing[];
  titles: Map<string, string>;
  things: AskedThing[];
}

/** What was learned last of the latest accounts: it stays on this thread, as it is too large to be sent about. */
const learnedOf = new Map<string, Learned>();
const mostAccounts = 4;
const tellEvery = 50;

/**
 * Learns what belongs in each home, and how far that can be trusted; then ranks the homes for each thing. Tells how far it is.
 * Answers how many files it was learned from, the homes' own names counted in.
 */
export async function learnHomes(
  { account, record, waiting, against, titles, things }: LearnHomes,
  context: WorkContext,
): Promise<{ total: number; fits: Fit[][] }> {
  const db = new Database(record, { readonly: true, fileMustExist: true });
  const files = [...filedThings(db, waiting), ...against];
  db.close();
  let whole = 0;
  const tell = (done: number, of: number) => {
    if (context.cancelled()) throw new Problem("cancelled", { name: "Learning" });
    whole = of;
    context.tell({ done, of: of + things.length });
  };
  const learned = learn(files, titles, tell);
  const fits = things.map((asked, n) => {
    if (n % tellEvery === 0) tell(whole + n, whole);
    return fitsFor(asked, learned);
  });
  learnedOf.delete(account);
  learnedOf.set(account, learned);
  for (const other of [...learnedOf.keys()].slice(0, -mostAccounts)) learnedOf.delete(other);
  return { total: learned.total, fits };
}

const fitsFor = ({ thing, among, ...options }: AskedThing, learned: Learned) =>
  rank(thing, learned, { ...options, among: among && new Set(among) });

/** Ranks the homes for each thing by what was learned last; null where nothing was, or it was forgotten. */
export async function rankThings(
  { account, things }: Pick<LearnHomes, "account" | "things">,
  context: WorkContext,
): Promise<Fit[][] | null> {
  const learned = learnedOf.get(account);
  if (!learned) return null;
  return things.map((asked) => {
    if (context.cancelled()) throw new Problem("cancelled", { name: "Looking for homes" });
    return fitsFor(asked, learned);
  });
}
