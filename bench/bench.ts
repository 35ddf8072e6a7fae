import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import os from "node:os";
import path from "node:path";
import { rawFromText } from "@/core/names/raw";
import { openEngine } from "@/server/engine";

/** Speed as ratios against an ordinary tool on the same tree in the same run. Prints a table, writes bench/results/latest.json. */
const root = process.env.VUOTO_ROOT ?? process.cwd();
const runs = 5;
const files = 1000;
const folder = fs.realpathSync(fs.mkdtempSync(path.join(os.tmpdir(), "vuoto-bench-")));

interface Row {
  figure: string;
  ours: number[];
  theirs: number[];
  atMost: number;
  aim: number;
}

const median = (list: number[]) => list.toSorted((a, b) => a - b)[Math.floor(list.length / 2)]!;
const rows: Row[] = [];

function makeAccount(name: string): string {
  const account = path.join(folder, name);
  for (const sub of ["Desktop", "Documents/Home"]) fs.mkdirSync(path.join(account, sub), { recursive: true });
  for (let n = 0; n < files; n++) {
    const file = path.join(account, "Desktop", `thing-${n}.txt`);
    fs.writeFileSync(file, `thing ${n}\n`);
    fs.utimesSync(file, 1_700_000_000, 1_700_000_000);
  }
  return account;
}

async function server(
  account: string,
): Promise<{ ask(path: string, input: unknown): Promise<Record<string, unknown>>; stop(): Promise<void> }> {
  const data = `${account}-data`;
  const child = spawn(process.execPath, [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", data, "start"], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  await new Promise<void>((ready) => child.stdout.on("data", (chunk: Buffer) => String(chunk).includes("Ctrl-C") && ready()));
  const { port, key } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { port: number; key: string };
  return {
    async ask(what, input) {
      const answer = await fetch(`http://127.0.0.1:${port}/api/${what}`, {
        method: "POST",
        headers: { "content-type": "application/json", "x-vuoto-key": key },
        body: JSON.stringify(input),
      });
      const body = (await answer.json()) as Record<string, unknown>;
      if (!answer.ok) throw new Error(JSON.stringify(body));
      return body;
    },
    async stop() {
      const ended = new Promise((done) => child.once("exit", done));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

async function timed(work: () => unknown): Promise<number> {
  const began = performance.now();
  await work();
  return performance.now() - began;
}

const shell = (script: string, cwd: string) => {
  const done = spawnSync("bash", ["-c", script], { cwd, encoding: "utf8" });
  if (done.status !== 0) throw new Error(done.stderr);
};
const count = (place: string) => fs.readdirSync(place).filter((name) => !name.startsWith(".")).length;
function expectCount(place: string, n: number) {
  if (count(place) !== n) throw new Error(`${place} holds ${count(place)}, not ${n}`);
}

async function quietAndBack(): Promise<void> {
  const account = makeAccount("quiet");
  const plain = makeAccount("quiet-plain");
  const vuoto = await server(account);
  await vuoto.ask("survey/refresh", {});
  const row: Row = { figure: "P5 quiet and back, 1,000 items, tucked away", ours: [], theirs: [], atMost: 5, aim: 2 };
  const desktop = path.join(account, "Desktop");
  for (let n = 0; n <= runs; n++) {
    const ours = await timed(async () => {
      await vuoto.ask("quiet/show", { level: "bare" });
      expectCount(desktop, 0);
      await vuoto.ask("quiet/show", { level: "everything" });
    });
    expectCount(desktop, files);
    await vuoto.ask("survey/refresh", {});
    const theirs = await timed(() =>
      shell("mkdir .away && mv -- * .away && sync -f . && mv .away/* . && rmdir .away && sync -f .", path.join(plain, "Desktop")),
    );
    expectCount(path.join(plain, "Desktop"), files);
    if (n > 0) {
      row.ours.push(ours);
      row.theirs.push(theirs);
    }
  }
  rows.push(row);
  await vuoto.stop();
}

async function sweepAThousand(): Promise<void> {
  const account = makeAccount("sweep");
  const plain = makeAccount("sweep-plain");
  const vuoto = await server(account);
  await vuoto.ask("survey/refresh", {});
  const row: Row = { figure: "P13 sweep 1,000 items as one act, durable, undoable", ours: [], theirs: [], atMost: 5, aim: 2 };
  const desktop = path.join(account, "Desktop");
  const items = fs.readdirSync(desktop).map((name) => ({ path: Buffer.from(path.join(desktop, name)).toString("base64") }));
  const home = { title: "Documents / Home" };
  for (let n = 0; n <= runs; n++) {
    const ours = await timed(() => vuoto.ask("homes/sweep", { home, items }));
    expectCount(path.join(account, "Documents/Home"), files);
    await vuoto.ask("ledger/undo", {});
    expectCount(desktop, files);
    await vuoto.ask("survey/refresh", {});
    const theirs = await timed(() => shell("mv -- * ../Documents/Home && sync -f .", path.join(plain, "Desktop")));
    expectCount(path.join(plain, "Documents/Home"), files);
    shell("mv -- * ../../Desktop && sync -f .", path.join(plain, "Documents/Home"));
    if (n > 0) {
      row.ours.push(ours);
      row.theirs.push(theirs);
    }
  }
  rows.push(row);
  await vuoto.stop();
}

/** Opening an account whose ledger holds 100,000 entries, against the same with none. */
async function startWithLongLedger(): Promise<void> {
  const open = async (name: string, entries: number) => {
    const account = path.join(folder, name);
    fs.mkdirSync(path.join(account, "Desktop"), { recursive: true });
    const place = { root: rawFromText(account), data: `${account}-data` };
    const first = await openEngine(place);
    const entry = first.db.prepare(
      "INSERT INTO entry (act, words, at, state, target, direction, said) VALUES ('stay', 'Left a thing where it lies', 0, 'done', ?, 'do', '[]')",
    );
    const step = first.db.prepare("INSERT INTO step (entry, n, version, plan, state) VALUES (?, 0, 1, ?, 'done')");
    first.db.transaction(() => {
      for (let n = 1; n <= entries; n++) {
        entry.run(n);
        step.run(n, JSON.stringify({ type: "set", key: `verdict:${n}`, from: null, to: { verdict: "stay", at: 0 } }));
      }
    })();
    await first.close();
    const times: number[] = [];
    for (let n = 0; n <= runs; n++) {
      const took = await timed(async () => {
        const engine = await openEngine(place);
        if (entries > 0 && engine.ledger.latest()?.id !== entries) throw new Error("another entry is the latest");
        await engine.close();
      });
      if (n > 0) times.push(took);
    }
    return times;
  };
  rows.push({
    figure: "opening an account with 100,000 entries, against none",
    ours: await open("long", 100_000),
    theirs: await open("short", 0),
    atMost: 20,
    aim: 5,
  });
}

await quietAndBack();
await sweepAThousand();
await startWithLongLedger();
fs.rmSync(folder, { recursive: true, force: true });

const table = rows.map((row) => {
  const ratios = row.ours.map((ours, n) => ours / row.theirs[n]!);
  return {
    figure: row.figure,
    ours: `${median(row.ours).toFixed(0)} ms (${Math.min(...row.ours).toFixed(0)}–${Math.max(...row.ours).toFixed(0)})`,
    against: `${median(row.theirs).toFixed(0)} ms (${Math.min(...row.theirs).toFixed(0)}–${Math.max(...row.theirs).toFixed(0)})`,
    ratio: `${median(ratios).toFixed(2)}× (${Math.min(...ratios).toFixed(2)}–${Math.max(...ratios).toFixed(2)})`,
    "at most": `${row.atMost}×`,
    aim: `${row.aim}×`,
    holds: median(ratios) <= row.atMost,
  };
});
console.table(table);
fs.mkdirSync(path.join(root, "bench/results"), { recursive: true });
fs.writeFileSync(
  path.join(root, "bench/results/latest.json"),
  JSON.stringify({ at: new Date().toISOString(), rows, table }, null, 1),
);
