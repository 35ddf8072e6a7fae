import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import { openEngine } from "@/server/engine";
import { undo } from "@/server/ledger/undo";
import { makeRandomAccount } from "../fixtures/accounts";
import { acts, leftovers } from "../fixtures/acts";
import { differences, readTree, type Tree } from "../fixtures/compare-trees";

/**
 * The long form of the kills: real processes, killed with SIGKILL at every call that changes something and at random
 * moments; after each a new process recovers the account and a model compares. Words: [--random N] [--stride N]
 */
const word = (name: string, otherwise: number) => {
  const at = process.argv.indexOf(name);
  return at > 0 ? Number(process.argv[at + 1]) : otherwise;
};
const randomKills = word("--random", 1000);
const stride = word("--stride", 1);
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
  start: Tree;
  content: Map<string, number>;
}

/** A fresh account for one kill: inode numbers are part of what the ledger knows, so it cannot be copied. */
function prepare(act: string, things: number): Prepared {
  const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-torture-")));
  fs.mkdirSync(path.join(folder, "account"));
  fs.mkdirSync(path.join(folder, "depot"));
  makeRandomAccount(path.join(folder, "account"), 41, things);
  fs.mkdirSync(path.join(folder, "account/Bureau/tree/inner"), { recursive: true });
  fs.writeFileSync(path.join(folder, "account/Bureau/tree/inner/leaf"), "leaf");
  const made = readTree(path.join(folder, "account"));
  const prepared = run(folder, act, "prepare");
  if (prepared.status !== 0) throw new Error(prepared.stderr);
  return { folder, start: made, content: contentOf(readTree(path.join(folder, "account"))) };
}

/** How often each content occurs: what is lost is missing, what is doubled is there too often. Info files are Vuoto's own. */
function contentOf(tree: Tree): Map<string, number> {
  const counts = new Map<string, number>();
  for (const [rel, entry] of tree)
    if (entry.type === "file" && !rel.endsWith(".trashinfo") && !rel.endsWith("HOW-TO-BRING-THEM-BACK.txt"))
      counts.set(entry.content, (counts.get(entry.content) ?? 0) + 1);
  return counts;
}

async function judge(folder: string, start: Tree, content: Map<string, number>, count: Count, where: string): Promise<void> {
  const say = (what: keyof Count, more: string) => {
    count[what]++;
    console.log(`  ${what}: ${where}: ${more}`);
  };
  const account = path.join(folder, "account");
  const engine = await openEngine({ root: rawFromText(account), data: path.join(folder, "data") });
  try {
    if (engine.db.prepare("SELECT 1 FROM entry WHERE state = 'running'").get())
      say("undecided", "an entry is neither done nor undone");
    if (engine.db.pragma("integrity_check", { simple: true }) !== "ok") say("unsound", "the database");
    const left = leftovers(folder);
    if (left.length > 0) say("temporary", left.join(", "));
    const now = readTree(account);
    for (const [sum, times] of content) {
      const is = contentOf(now).get(sum) ?? 0;
      if (is < times) say("lost", sum);
      if (is > times && !copies(engine.ledger.latest()?.act)) say("doubled", sum);
    }
    for (const sum of contentOf(now).keys()) if (!content.has(sum)) say("overwritten", sum);
    // All that stands is undone: then everything must be as it was made, names, content and modes.
    if (engine.ledger.latest()) {
      const { refused } = await undo(engine, { entry: "all" });
      if (refused.length > 0) say("undecided", JSON.stringify(refused.slice(0, 2)));
    }
    const different = differences(start, readTree(account), () => true).filter((line) => !line.startsWith("new: .local"));
    if (different.length > 0) say("lost", different.slice(0, 4).join("; "));
  } finally {
    await engine.close();
  }
}

/** A parcel restored is a copy on purpose. */
const copies = (act?: string) => act === "parcel-restore";

const totals: [string, Count, number][] = [];
async function everyPoint(act: string): Promise<void> {
  const began = Date.now();
  const count = none();
  for (const how of ["before", "after"])
    for (let at = 1; ; at += stride) {
      const { folder, start, content } = prepare(act, 3);
      try {
        const done = run(folder, act, "act", how, at);
        if (done.signal !== "SIGKILL") {
          if (done.status !== 0) throw new Error(`${act} ${how} ${at}: ${done.stderr}`);
          break;
        }
        count.points++;
        count.killed++;
        // Recovery itself is killed at its second changing call, and repeated.
        if (Math.floor(at / stride) % 3 === 0 && run(folder, act, "recover", "before", 2).signal === "SIGKILL")
          count["recovery killed"]++;
        await judge(folder, start, content, count, `${act}, ${how} call ${at}`);
      } finally {
        fs.rmSync(folder, { recursive: true, force: true });
      }
    }
  totals.push([act, count, Date.now() - began]);
  print(totals.at(-1)!);
}

async function randomMoments(act: string, kills: number): Promise<void> {
  const began = Date.now();
  const count = none();
  let longest = 120;
  for (let n = 0; n < kills; n++) {
    const { folder, start, content } = prepare(act, 300);
    const moment = Math.random() * longest;
    const killed = await new Promise<boolean>((resolve) => {
      const victim = spawn(process.execPath, [child, folder, act, "act", "any", "0"], { stdio: ["ignore", "pipe", "ignore"] });
      let readyAt = 0;
      victim.stdout.on("data", (chunk: Buffer) => {
        if (String(chunk).includes("ready") && readyAt === 0) {
          readyAt = Date.now();
          setTimeout(() => victim.kill("SIGKILL"), moment);
        }
        if (String(chunk).includes("over")) longest = Math.max(20, Math.min(longest, (Date.now() - readyAt) * 1.1));
      });
      victim.once("exit", (_, signal) => resolve(signal === "SIGKILL"));
    });
    count.points++;
    if (killed) count.killed++;
    await judge(folder, start, content, count, `${act}, ${moment.toFixed(1)} ms after it began`);
    fs.rmSync(folder, { recursive: true, force: true });
  }
  totals.push([`${act}, at random`, count, Date.now() - began]);
  print(totals.at(-1)!);
}

function print([name, count, took]: [string, Count, number]): void {
  console.log(
    `${name.padEnd(34)} ${Object.entries(count)
      .map(([key, n]) => `${key} ${n}`)
      .join(", ")}; ${(took / 1000).toFixed(0)} s`,
  );
}

for (const act of Object.keys(acts)) await everyPoint(act);
const large = ["put 300", "let go of 300", "quiet 300", "undo 300"];
for (const act of large) await randomMoments(act, Math.ceil(randomKills / large.length));

const bad = totals.reduce((sum, [, c]) => sum + c.lost + c.overwritten + c.doubled + c.temporary + c.undecided + c.unsound, 0);
const points = totals.reduce((sum, [, c]) => sum + c.points, 0);
console.log(`${points} kills, ${bad} faults`);
process.exit(bad === 0 && points > 0 ? 0 : 1);
