import { execFileSync } from "node:child_process";
import { createHash } from "node:crypto";
import fs from "node:fs";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import type { Engine } from "@/server/engine";
import { walkHomes } from "@/server/homes/homes";
import { openEngine } from "@/server/opening";
import { protect } from "@/server/survey/protect";
import { lookElsewhere, lookInside } from "@/server/survey/protection";
import { findings as findingsNow } from "@/server/survey/survey";
import { surveyView } from "@/server/survey/view";
import { folder, median, type Row, rows, runs, shell, timed } from "./measure";

const open = (account: string, data: string): Promise<Engine> => openEngine({ root: rawFromText(account), data });

/** An account whose documents hold `count` files in folders of a hundred. */
function filedAccount(name: string, count: number): string {
  const account = path.join(folder, name);
  fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
  for (let n = 0; n < count; n++) {
    const place = path.join(account, "Documents", `area-${Math.floor(n / 100) % 30}`, `folder-${Math.floor(n / 100)}`);
    if (n % 100 === 0) fs.mkdirSync(place, { recursive: true });
    fs.writeFileSync(path.join(place, `file-${n}.txt`), "");
  }
  return account;
}

/** P1 and P2 at 100,000 entries, and P1 at 10,000 and 300,000 for P12: the index in a new database, then once more. */
export async function walkAndAgain(): Promise<void> {
  const perEntry = new Map<number, number>();
  for (const count of [10_000, 100_000, 300_000]) {
    const account = filedAccount(`walk-${count}`, count);
    const first: Row = { figure: `P1 walk and index ${count} entries, against find`, ours: [], theirs: [], atMost: 4, aim: 2 };
    const again: Row = {
      figure: "P2 the same once more, nothing changed, against P1",
      ours: [],
      theirs: [],
      atMost: 0.6,
      aim: 0.3,
    };
    const times = count > 100_000 ? 3 : runs;
    shell(`find . -printf '%p\\t%s\\t%T@\\n' > /dev/null`, account);
    for (let n = 0; n < times; n++) {
      const engine = await open(account, `${account}-data-${n}`);
      await engine.lookAgain("worktops");
      const took = await timed(() => walkHomes(engine));
      const rowsKept = engine.db.prepare("SELECT count(*) FROM filed").pluck().get();
      if (rowsKept !== count) throw new Error(`${rowsKept} kept of ${count}`);
      first.ours.push(took);
      again.theirs!.push(took);
      again.ours.push(await timed(() => walkHomes(engine)));
      await engine.close();
      fs.rmSync(`${account}-data-${n}`, { recursive: true });
      first.theirs!.push(await timed(() => shell(`find . -printf '%p\\t%s\\t%T@\\n' > /dev/null`, account)));
    }
    rows.push(first);
    if (count === 100_000) rows.push(again);
    perEntry.set(count, median(first.ours) / count);
    fs.rmSync(account, { recursive: true });
  }
  rows.push({
    figure: "P12 P1 an entry: 300,000 against 10,000",
    ours: [perEntry.get(300_000)! * 1000],
    theirs: [perEntry.get(10_000)! * 1000],
    atMost: 1.3,
    aim: 1.1,
  });
}

/** P3: 20,000 files, 4 GB, a tenth of them identical with another. */
export async function identicalFiles(): Promise<void> {
  const account = path.join(folder, "twins");
  const desktop = path.join(account, "Desktop");
  fs.mkdirSync(desktop, { recursive: true });
  const count = 20_000;
  const content = Buffer.alloc(400_000);
  for (let at = 0; at < content.length; at += 32) createHash("sha256").update(String(at)).digest().copy(content, at);
  const twins = count / 10;
  for (let n = 0; n < count; n++) {
    const place = path.join(desktop, `thing-${n}.bin`);
    // Every second size occurs twice with another content, so that size alone tells too little.
    const of = n < twins ? n + twins : n;
    const size = 100_000 + (Math.floor(of / 2) % 10_000) * 20;
    const part = Buffer.from(content.subarray(0, size));
    part.writeUInt32LE(of, 4 + (of % 20_000));
    fs.writeFileSync(place, part);
  }
  const row: Row = {
    figure: "P3 find all identical among 20,000 files, 4 GB, against sha256sum",
    ours: [],
    theirs: [],
    atMost: 0.5,
    aim: 0.15,
  };
  const sumAll = () => shell("find . -type f -print0 | xargs -0 sha256sum > /dev/null", desktop);
  sumAll();
  for (let n = 0; n < 3; n++) {
    const engine = await open(account, `${account}-data-${n}`);
    row.ours.push(await timed(() => engine.lookAgain("all")));
    const found = (await findingsNow(engine)).find((finding) => finding.kind === "twins")?.each.length;
    if (found !== twins) throw new Error(`${found} twins found of ${twins}`);
    await engine.close();
    fs.rmSync(`${account}-data-${n}`, { recursive: true });
    row.theirs!.push(await timed(sumAll));
  }
  rows.push(row);
  fs.rmSync(account, { recursive: true });
}

/** P10: how much memory a process takes at most while it walks 200,000 entries. */
export async function memoryOfAWalk(): Promise<void> {
  const account = filedAccount("memory", 200_000);
  const row: Row = { figure: "P10 memory while walking 200,000 entries", ours: [], atMost: 500, aim: 300, unit: "MB" };
  for (let n = 0; n < runs; n++) {
    const said = execFileSync(
      process.execPath,
      [path.join(import.meta.dirname, "bench-walk.mjs"), account, `${account}-data-${n}`],
      {
        encoding: "utf8",
      },
    );
    row.ours.push(Number(said) / 1000);
  }
  rows.push(row);
  fs.rmSync(account, { recursive: true });
}

/** P11: all findings, figures and the view of a worktop of 2,000 things, once they are known. */
export async function findings(): Promise<void> {
  const account = path.join(folder, "findings");
  const desktop = path.join(account, "Desktop");
  fs.mkdirSync(desktop, { recursive: true });
  for (let n = 0; n < 2000; n++) {
    const place = path.join(desktop, `thing ${n % 40} no ${n}`);
    if (n % 5 === 0) fs.writeFileSync(`${place}.desktop`, `[Desktop Entry]\nType=Application\nExec=/nowhere/${n}\n`);
    else if (n % 5 === 1) fs.writeFileSync(`${place}.txt`, n % 3 === 0 ? "" : `text ${n}`);
    else if (n % 5 === 2) fs.writeFileSync(`${place}.csv.part`, "half");
    else fs.writeFileSync(`${place}.csv`, `a,b\n${n % 700},2\n`);
    for (const ending of [".desktop", ".txt", ".csv.part", ".csv"])
      if (fs.existsSync(place + ending)) fs.utimesSync(place + ending, 1.6e9 + n * 7, 1.6e9 + n * 7);
  }
  const engine = await open(account, `${account}-data`);
  await engine.lookAgain("all");
  const row: Row = { figure: "P11 survey of 2,000 things, warm", ours: [], atMost: 1000, aim: 300 };
  for (let n = 0; n <= runs; n++) {
    // What a change anywhere would make it do: nothing is remembered but what is in the record.
    engine.db.exec("UPDATE item SET read_at = read_at + 1 WHERE id = (SELECT id FROM item LIMIT 1)");
    const took = await timed(() => surveyView(engine));
    if (n > 0) row.ours.push(took);
  }
  const found = (await findingsNow(engine)).reduce((sum, finding) => sum + finding.each.length, 0);
  if (found < 1500) throw new Error(`only ${found} found`);
  await engine.close();
  rows.push(row);
}

/**
 * The first look at an account of 100,000 files, 2,000 of them on the desktop, by a process of its own: when the things on the
 * worktops can be worked with, when all is done, and its memory.
 */
export async function firstLook(): Promise<void> {
  const account = path.join(folder, "first");
  const words = ["tide", "nest", "rent", "boat", "letter", "ring", "gull", "list", "week", "draft"];
  // Sizes are spread as those of small files are.
  const content = (n: number) =>
    `${words[n % 10]} ${words[Math.floor(n / 10) % 10]} of week ${n % 52}\n${"number,value\n".repeat((n * 7919) % 600)}${n}\n`;
  const fill = (place: string, from: number, to: number) => {
    fs.mkdirSync(place, { recursive: true });
    for (let n = from; n < to; n++)
      fs.writeFileSync(path.join(place, `${words[n % 10]}-${n}.${n % 3 ? "csv" : "txt"}`), content(n));
  };
  for (let home = 0; home < 980; home++)
    fill(path.join(account, "Documents", `area-${home % 30}`, `${words[home % 10]} ${home}`), home * 100, (home + 1) * 100);
  fill(path.join(account, "Desktop"), 97_000, 99_000);
  const find = () => shell(`find . -printf '%p\\t%s\\t%T@\\n' > /dev/null`, account);
  find();
  const row = (figure: string, atMost: number, aim: number): Row => {
    const made: Row = { figure: `first look, 100,000 files: ${figure}`, ours: [], theirs: [], atMost, aim };
    rows.push(made);
    return made;
  };
  const [things, done] = [row("the worktops", 8, 4), row("all", 40, 20)];
  const memory: Row = { figure: "first look, 100,000 files: memory", ours: [], atMost: 400, aim: 300, unit: "MB" };
  rows.push(memory);
  for (let n = 0; n < 3; n++) {
    const said = JSON.parse(
      execFileSync(process.execPath, [path.join(import.meta.dirname, "bench-first.mjs"), account, `${account}-data-${n}`], {
        encoding: "utf8",
      }),
    ) as { things: number; done: number; memory: number };
    const took = await timed(find);
    things.ours.push(said.things);
    done.ours.push(said.done);
    memory.ours.push(said.memory / 1000);
    for (const one of [things, done]) one.theirs!.push(took);
  }
  fs.rmSync(account, { recursive: true });
}

/** What exists nowhere else, where 40,000 files lie in one folder of the desktop: looked for in a thread. */
export async function nowhereElseOfMany(): Promise<void> {
  const account = path.join(folder, "nowhere");
  for (const place of ["Desktop/large", "Backup/large"])
    for (let n = 0; n < 40_000; n++) {
      const at = path.join(account, place, `part-${Math.floor(n / 200)}`);
      if (n % 200 === 0) fs.mkdirSync(at, { recursive: true });
      fs.writeFileSync(path.join(at, `${n}.txt`), `file ${n % 30_000} of many`);
    }
  const engine = await open(account, `${account}-data`);
  await protect(engine, { folder: "~/Backup", protection: "backed up" });
  const row: Row = { figure: "nowhere else, of 40,000 files in one folder", ours: [], atMost: 300, aim: 150 };
  const inside: Row = { figure: "twins inside, of 40,000 files in one folder", ours: [], atMost: 300, aim: 150 };
  for (let n = 0; n < runs; n++) {
    engine.walked++;
    row.ours.push(await timed(() => lookElsewhere(engine)));
    inside.ours.push(await timed(() => lookInside(engine)));
  }
  const known = [...engine.elsewhere!.folders.values()];
  if (known.length !== 1 || !known[0]) throw new Error("not all were found in the backup");
  await engine.close();
  rows.push(row, inside);
  fs.rmSync(account, { recursive: true });
}
