import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import { undo } from "@/server/ledger/undo";
import { openEngine } from "@/server/opening";
import { acts, fillSmall, halfErased, leftovers, removeSmall, treeOfSmall } from "../fixtures/acts";
import { differences, type Tree } from "../fixtures/compare-trees";

/**
 * The long form of the kills: real processes, killed with SIGKILL at every call that changes something and at random
 * moments; after each a new process recovers the account and a model compares. Words: [--random N] [--stride N], 0 for none;
 * [--only TEXT] for the acts whose names hold it.
 */
const word = (name: string, otherwise: string) => {
  const at = process.argv.indexOf(name);
  return at > 0 ? (process.argv[at + 1] ?? otherwise) : otherwise;
};
const randomKills = Number(word("--random", "1000"));
const stride = Number(word("--stride", "1"));
const only = word("--only", "");
const child = path.join(import.meta.dirname, "torture-child.mjs");

interface Count {
  points: number;
  killed: number;
  lost: number;
  overwritten: number;
  doubled: number;
  temporary: number;
  undecided: number;
  unsound: number;
  "recovery killed": number;
}
const none = (): Count => ({
  points: 0,
  killed: 0,
  lost: 0,
  overwritten: 0,
  doubled: 0,
  temporary: 0,
  undecided: 0,
  unsound: 0,
  "recovery killed": 0,
});

const run = (folder: string, act: string, part: string, how = "any", at = 0) =>
  spawnSync(process.execPath, [child, folder, act, part, how, String(at)], { encoding: "utf8", env: process.env });

interface Prepared {
  folder: string;
  made: Tree;
  start: Tree;
}

/** A fresh account for one kill: inode numbers are part of what the ledger knows, so it cannot be copied. */
function prepare(act: string, loose: number): Prepared {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-torture-")));
  fs.mkdirSync(path.join(folder, "account"));
  fillSmall(folder, loose);
  const made = treeOfSmall(folder);
  const prepared = run(folder, act, "prepare");
  if (prepared.status !== 0) throw new Error(prepared.stderr);
  return { folder, made, start: treeOfSmall(folder) };
}

/** How often each content occurs: what is lost is missing, what is doubled is there too often. Info files are Vuoto's own. */
function contentOf(tree: Tree): Map<string, number> {
  const counts = new Map<string, number>();
  for (const [rel, entry] of tree)
    if (entry.type === "file" && !/(\.trashinfo|HOW-TO-BRING-THEM-BACK\.txt|\/\.directory|\/\.clear\.png)$/.test(rel))
      counts.set(entry.content, (counts.get(entry.content) ?? 0) + 1);
  return counts;
}

async function judge(act: string, { folder, made, start }: Prepared, count: Count, where: string): Promise<void> {
  const say = (what: keyof Count, more: string) => {
    count[what]++;
    console.log(`  ${what}: ${where}: ${more}`);
  };
  const engine = await openEngine({ root: rawFromText(path.join(folder, "account")), data: path.join(folder, "data") });
  try {
    if (engine.db.prepare("SELECT 1 FROM entry WHERE state = 'running'").get())
      say("undecided", "an entry is neither done nor undone");
    if (engine.db.pragma("integrity_check", { simple: true }) !== "ok") say("unsound", "the database");
    await acts[act]!.tidy?.(engine, folder);
    const left = leftovers(folder);
    if (left.length > 0) say("temporary", left.join(", "));
    const now = treeOfSmall(folder);
    if (acts[act]!.destroys) {
      for (const line of halfErased(start, now)) say("lost", line);
      return;
    }
    const [mine, was, is] = [contentOf(made), contentOf(start), contentOf(now)];
    for (const [sum, times] of was) {
      // What Vuoto wrote itself, a note, goes with the undo of that; the ledger has its text.
      if (!mine.has(sum)) continue;
      if ((is.get(sum) ?? 0) < times) say("lost", sum);
      if ((is.get(sum) ?? 0) > times && engine.ledger.latest()?.act !== "parcel-restore") say("doubled", sum);
    }
    for (const sum of is.keys()) if (!was.has(sum)) say("overwritten", sum);
    // All that stands is undone: then everything must be as it was made, names, content and modes.
    if (engine.db.prepare("SELECT 1 FROM entry WHERE target = id AND state = 'done'").get()) {
      const { refused } = await undo(engine, { entry: "all" });
      if (refused.length > 0) say("undecided", JSON.stringify(refused.slice(0, 2)));
    }
    const different = differences(made, treeOfSmall(folder), () => true).filter((line) => !line.startsWith("new: .local"));
    if (different.length > 0) say("lost", different.slice(0, 4).join("; "));
  } finally {
    await engine.close();
  }
}

const totals: [string, Count, number][] = [];
/** Recovery is itself killed, at its first changing call, its second and so on, and repeated. */
function killRecovery(folder: string, act: string, count: Count): void {
  for (let at = 1; at <= 3; at++)
    if (run(folder, act, "recover", at % 2 === 0 ? "before" : "after", at).signal === "SIGKILL") count["recovery killed"]++;
}

async function everyPoint(act: string): Promise<void> {
  const began = Date.now();
  const count = none();
  for (const how of ["before", "after"])
    for (let at = 1; ; at += stride) {
      const prepared = prepare(act, 3);
      try {
        const done = run(prepared.folder, act, "act", how, at);
        if (done.signal !== "SIGKILL") {
          if (done.status !== 0) throw new Error(`${act} ${how} ${at}: ${done.stderr}`);
          break;
        }
        count.points++;
        count.killed++;
        if (Math.floor(at / stride) % 3 === 1) killRecovery(prepared.folder, act, count);
        await judge(act, prepared, count, `${act}, ${how} call ${at}`);
      } finally {
        removeSmall(prepared.folder);
      }
    }
  totals.push([act, count, Date.now() - began]);
  print(totals.at(-1)!);
}

async function randomMoments(act: string, kills: number): Promise<void> {
  const began = Date.now();
  const count = none();
  const whole: number[] = [];
  let changing = 0;
  for (let n = -3; n < kills; n++) {
    // Three that are not killed say how long the act takes here and now.
    const longest = n < 0 ? Number.POSITIVE_INFINITY : 1.15 * Math.max(...whole.slice(-5));
    const prepared = prepare(act, 300);
    const moment = n < 0 ? 60_000 : Math.random() * longest;
    const killed = await new Promise<boolean>((resolve) => {
      const victim = spawn(process.execPath, [child, prepared.folder, act, "act", "any", "0"], {
        stdio: ["ignore", "pipe", "ignore"],
      });
      let readyAt = 0;
      let timer: NodeJS.Timeout | undefined;
      victim.stdout.on("data", (chunk: Buffer) => {
        if (String(chunk).includes("ready") && readyAt === 0) {
          readyAt = Date.now();
          timer = setTimeout(() => victim.kill("SIGKILL"), moment);
        }
        if (String(chunk).includes("over")) whole.push(Date.now() - readyAt);
      });
      victim.once("exit", (_, signal) => {
        clearTimeout(timer);
        resolve(signal === "SIGKILL");
      });
    });
    if (n < 0) {
      removeSmall(prepared.folder);
      continue;
    }
    count.points++;
    if (killed) count.killed++;
    if (killed && differences(prepared.start, treeOfSmall(prepared.folder)).length > 0) changing++;
    if (n % 5 === 0) killRecovery(prepared.folder, act, count);
    await judge(act, prepared, count, `${act}, ${moment.toFixed(1)} ms after it began`);
    removeSmall(prepared.folder);
  }
  totals.push([`${act}, 300 at random`, count, Date.now() - began]);
  print(totals.at(-1)!);
  console.log(`  ${changing} of these in the middle of the changes`);
}

function print([name, count, took]: [string, Count, number]): void {
  console.log(
    `${name.padEnd(34)} ${Object.entries(count)
      .map(([key, n]) => `${key} ${n}`)
      .join(", ")}; ${(took / 1000).toFixed(0)} s`,
  );
}

const wanted = Object.keys(acts).filter((act) => act.includes(only));
for (const act of wanted) if (stride > 0) await everyPoint(act);
const large = [
  "put away into a new home",
  "put on another file system",
  "let go",
  "quiet, tucked away",
  "the trash emptied",
  "undo of letting go",
].filter((act) => wanted.includes(act));
for (const act of large) if (randomKills > 0) await randomMoments(act, Math.ceil(randomKills / large.length));

const bad = totals.reduce((sum, [, c]) => sum + c.lost + c.overwritten + c.doubled + c.temporary + c.undecided + c.unsound, 0);
const points = totals.reduce((sum, [, c]) => sum + c.points, 0);
console.log(`${points} kills, ${bad} faults`);
const table = process.env.VUOTO_TORTURE_TABLE;
if (table)
  fs.writeFileSync(
    table,
    JSON.stringify(
      totals.map(([name, c, took]) => ({
        round: `killed: ${name}`,
        rounds: c.points,
        faults: c.lost + c.overwritten + c.doubled + c.temporary + c.undecided + c.unsound,
        skipped: 0,
        seconds: Math.round(took / 1000),
      })),
    ),
  );
process.exit(bad === 0 && points > 0 ? 0 : 1);
