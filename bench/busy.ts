import { type ChildProcess, spawn, spawnSync } from "node:child_process";
import { randomBytes } from "node:crypto";
import fs from "node:fs";
import http from "node:http";
import path from "node:path";
import { chromium } from "@playwright/test";
import sharp from "sharp";
import { browserWords, folder, type Row, root, rows, timed } from "./measure";

/** What is loaded into the server to tell how long its event loop was kept; written to a file when it is asked. */
const monitor = (file: string) => `
  import { monitorEventLoopDelay } from "node:perf_hooks";
  import fs from "node:fs";
  if (process.argv[1]?.endsWith("serve.mjs")) {
    const delay = monitorEventLoopDelay({ resolution: 1 });
    process.on("SIGUSR2", () => {
      fs.writeFileSync(${JSON.stringify(file)}, JSON.stringify({ p999: delay.percentile(99.9) / 1e6, max: delay.max / 1e6 }));
      delay.reset();
      delay.enable();
    });
  }
`;

interface Server {
  base: string;
  cookie: string;
  ask(what: string, input: unknown): Promise<Record<string, unknown>>;
  get(what: string): Promise<void>;
  /** The event loop's delay since it was asked last, milliseconds. */
  delay(): Promise<{ p999: number; max: number }>;
  pid(): number;
  stop(): Promise<void>;
}

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

export async function serve(account: string): Promise<Server> {
  const data = `${account}-data`;
  const [loaded, told] = [path.join(folder, "monitor.mjs"), path.join(folder, "delay.json")];
  fs.writeFileSync(loaded, monitor(told));
  const child: ChildProcess = spawn(
    process.execPath,
    [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", data, "start"],
    { stdio: ["ignore", "pipe", "inherit"], env: { ...process.env, NODE_OPTIONS: `--import=${loaded}` } },
  );
  let said = "";
  await new Promise<void>((ready) =>
    child.stdout!.on("data", (chunk: Buffer) => {
      said += String(chunk);
      if (said.includes("Ctrl-C")) ready();
    }),
  );
  const { port, key } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { port: number; key: string };
  const base = `http://127.0.0.1:${port}`;
  const link = /link=(\S+)/.exec(said)![1]!;
  const entered = await fetch(`${base}/api/guard/enter`, {
    method: "POST",
    redirect: "manual",
    headers: { origin: base, "content-type": "application/x-www-form-urlencoded" },
    body: `link=${link}`,
  });
  const cookie = entered.headers.getSetCookie()[0]!.split(";")[0]!;
  const server = fs
    .readdirSync("/proc")
    .map(Number)
    .find((pid) => {
      try {
        return (
          pid > 0 &&
          fs.readFileSync(`/proc/${pid}/cmdline`, "utf8").includes("dist/serve.mjs") &&
          fs.readFileSync(`/proc/${pid}/environ`, "utf8").includes(data)
        );
      } catch {
        return false;
      }
    })!;
  return {
    base,
    cookie,
    async ask(what, input) {
      // A connection of its own: one that lay idle may be closed at that very moment.
      const { status, text } = await new Promise<{ status: number; text: string }>((resolve, reject) => {
        const headers = { "content-type": "application/json", "x-vuoto-key": key };
        const asked = http.request(`${base}/api/${what}`, { method: "POST", headers, agent: false }, (answer) => {
          let text = "";
          answer.setEncoding("utf8").on("data", (part: string) => {
            text += part;
          });
          answer.on("end", () => resolve({ status: answer.statusCode ?? 0, text }));
        });
        asked.on("error", reject).end(JSON.stringify(input));
      });
      const body = JSON.parse(text) as Record<string, unknown>;
      if (status !== 200) throw new Error(text);
      return body;
    },
    async get(what) {
      const answer = await fetch(`${base}${what}`, { headers: { cookie } });
      await answer.arrayBuffer();
      if (!answer.ok) throw new Error(`${what}: ${answer.status}`);
    },
    async delay() {
      fs.rmSync(told, { force: true });
      process.kill(server, "SIGUSR2");
      while (!fs.existsSync(told) || fs.statSync(told).size === 0) await pause(5);
      await pause(5);
      return JSON.parse(fs.readFileSync(told, "utf8")) as { p999: number; max: number };
    },
    pid: () => server,
    async stop() {
      const ended = new Promise((done) => child.once("exit", done));
      child.kill("SIGTERM");
      await ended;
    },
  };
}

const percentile = (list: number[], share: number) =>
  list.toSorted((a, b) => a - b)[Math.min(list.length - 1, Math.floor(list.length * share))]!;
const old = 1_700_000_000;

function write(file: string, content: string | Buffer): void {
  fs.writeFileSync(file, content);
  fs.utimesSync(file, old, old);
}

const views = ["survey", "homes", "sitting", "depots", "quiet", "ledger", "settings"];

/**
 * With 100,000 files known, 40,000 of them in one folder of the desktop, and 2 GB on their way to a depot: how long a trial,
 * quiet and back, each page and a picture take; and how long the event loop is kept, against one that is idle.
 */
export async function whileBytesMove(): Promise<void> {
  const account = path.join(folder, "busy");
  const depot = path.join(folder, "busy-depot");
  for (const place of [depot, `${account}/Desktop/many`, `${account}/Documents`]) fs.mkdirSync(place, { recursive: true });
  for (let n = 0; n < 40_000; n++) fs.writeFileSync(`${account}/Desktop/many/${n}.txt`, `${n % 977}\n`);
  for (let home = 0; home < 600; home++) {
    fs.mkdirSync(`${account}/Documents/home-${home}`);
    for (let n = 0; n < 100; n++) fs.writeFileSync(`${account}/Documents/home-${home}/${home}-${n}.txt`, `${home} ${n}\n`);
  }
  for (let n = 0; n < 150; n++) write(`${account}/Desktop/thing-${n}.txt`, `thing ${n}\n`);
  const pictures = 60;
  for (let n = 0; n < pictures; n++) {
    const noise = { type: "gaussian" as const, mean: 60 + 2 * n, sigma: 40 };
    const picture = await sharp({ create: { width: 1600, height: 1200, channels: 3, background: "#345", noise } })
      .jpeg()
      .toBuffer();
    write(`${account}/Desktop/picture-${n}.jpg`, picture);
  }
  const block = randomBytes(1 << 20);
  for (let n = 0; n < 8; n++) {
    const fd = fs.openSync(`${account}/Desktop/large-${n}.bin`, "w");
    for (let k = 0; k < 250; k++) {
      block.writeUInt32LE(n * 1000 + k, 0);
      fs.writeSync(fd, block);
    }
    fs.closeSync(fd);
    fs.utimesSync(`${account}/Desktop/large-${n}.bin`, old, old);
  }
  const vuoto = await serve(account);
  const ref = (name: string) => ({ path: Buffer.from(`${account}/Desktop/${name}`).toString("base64") });
  await vuoto.ask("survey/refresh", {});
  await vuoto.ask("survey/protect", { folder: "~/Documents", protection: "backed up" });
  await vuoto.ask("depots/add", { location: depot, title: "Disk" });
  await vuoto.ask("sitting/archive", { items: Array.from({ length: 8 }, (_, n) => ref(`large-${n}.bin`)), parcel: "Large" });
  const answer = (await vuoto.ask("survey/survey", {})) as unknown as { worktops: { items: { id: string; path: string }[] }[] };
  const lying = answer.worktops[0]!.items;
  if (lying.length !== 159 + pictures) throw new Error("another number of things lies there");
  for (const view of views) await vuoto.get(`/${view}`);
  await vuoto.ask("survey/refresh", {});
  await vuoto.delay();
  await pause(5000);
  const idle = await vuoto.delay();

  const took = new Map<string, number[]>();
  const measure = async (name: string, work: () => Promise<unknown>) => {
    const ms = await timed(work);
    took.set(name, [...(took.get(name) ?? []), ms]);
  };
  let sending = true;
  const began = performance.now();
  const sent = vuoto.ask("depots/send", { parcel: "Large", depot: "Disk" }).finally(() => {
    sending = false;
  });
  while (sending) {
    await measure("a trial", () => vuoto.ask("sitting/let-go", { items: [ref("thing-3.txt")], dryRun: true }));
    await measure("quiet", () => vuoto.ask("quiet/show", { level: "bare" }));
    await measure("quiet", () => vuoto.ask("quiet/show", { level: "everything" }));
    // Each is made small for the first time.
    const picture = lying.filter(({ path }) => path.endsWith(".jpg"))[took.get("a picture")?.length ?? 0];
    if (picture) await measure("a picture", () => vuoto.get(`/api/looks/picture?item=${picture.id}&size=sheet`));
    for (const view of views) if (sending) await measure(`the page ${view}`, () => vuoto.get(`/${view}`));
  }
  const report = (await sent) as { done: number; refused: unknown[] };
  console.log(
    `2 GB took ${((performance.now() - began) / 1000).toFixed(1)} s; ${report.done} sent, ${report.refused.length} refused`,
  );
  if (report.done !== 8) throw new Error(JSON.stringify(report));
  const busy = await vuoto.delay();
  await vuoto.stop();
  for (const [name, list] of took) console.log(`  ${name}: p95 ${percentile(list, 0.95).toFixed(0)} ms of ${list.length}`);
  for (const [name, list] of took)
    if (!name.startsWith("the page"))
      rows.push({ figure: `P16 ${name}, 2 GB on their way, p95`, ours: [percentile(list, 0.95)], atMost: 200, aim: 50 });
  const pages = [...took].flatMap(([name, list]) => (name.startsWith("the page") ? [percentile(list, 0.95)] : []));
  rows.push({ figure: "P16 the slowest page, p95", ours: [Math.max(...pages)], atMost: 200, aim: 50 });
  console.log(
    `  event loop, idle: p99.9 ${idle.p999.toFixed(1)} ms, longest ${idle.max.toFixed(1)} ms; busy: longest ${busy.max.toFixed(1)} ms`,
  );
  rows.push({ figure: "P16 delay of the event loop, p99.9", ours: [busy.p999], theirs: undefined, atMost: 50, aim: 20 });
}

/** `quiet toggle` by command to a running server, on 100 icons, in turn with a process that does nothing. */
export async function toggleByCommand(): Promise<void> {
  const account = path.join(folder, "toggled");
  fs.mkdirSync(`${account}/Desktop`, { recursive: true });
  for (let n = 0; n < 100; n++) write(`${account}/Desktop/thing-${n}.txt`, `thing ${n}\n`);
  const vuoto = await serve(account);
  await vuoto.ask("survey/refresh", {});
  const run = (...words: string[]) => {
    const done = spawnSync(process.execPath, words, { encoding: "utf8" });
    if (done.status !== 0) throw new Error(done.stderr);
  };
  const toggle = [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", `${account}-data`, "quiet", "toggle"];
  const row: Row = { figure: "P14 quiet toggle by command, 100 icons", ours: [], theirs: [], atMost: 3, aim: 1.5 };
  run(...toggle);
  for (let n = 0; n < 21; n++) {
    row.theirs!.push(await timed(() => run("-e", "0")));
    row.ours.push(await timed(() => run(...toggle)));
    await pause(300);
  }
  rows.push(row);
  await vuoto.stop();
}

/** How long after its key a verdict stands in the record: 200 in the browser, twenty of them within two seconds. */
export async function verdictsDurable(): Promise<void> {
  const account = path.join(folder, "verdicts");
  fs.mkdirSync(`${account}/Desktop`, { recursive: true });
  for (let n = 0; n < 240; n++) write(`${account}/Desktop/thing-${n}.txt`, `thing ${n}\n`);
  const vuoto = await serve(account);
  await vuoto.ask("survey/refresh", {});
  const browser = await chromium.launch(browserWords);
  try {
    const context = await browser.newContext();
    const [name, value] = vuoto.cookie.split("=") as [string, string];
    await context.addCookies([{ name, value, url: vuoto.base }]);
    const page = await context.newPage();
    await page.goto(`${vuoto.base}/sitting`);
    await page.getByText("0 settled,").waitFor();
    const ours = await page.evaluate(async () => {
      const keys: number[] = [];
      const durable: number[] = [];
      const real = window.fetch;
      window.fetch = async (...asked) => {
        const answer = await real(...asked);
        if (String(asked[0]).endsWith("/api/sitting/give")) {
          const { verdicts } = JSON.parse(String(asked[1]?.body)) as { verdicts: unknown[] };
          // Those that went together stand together.
          for (const _ of verdicts) durable.push(performance.now());
        }
        return answer;
      };
      // The pictures and names here are all of one kind: it is the heading that tells which thing is shown.
      const shown = () => document.querySelector("h1")?.textContent;
      for (let n = 0; n < 200; n++) {
        const before = shown();
        keys.push(performance.now());
        window.dispatchEvent(new KeyboardEvent("keydown", { key: n % 2 ? "l" : "s", bubbles: true }));
        await new Promise((next) => setTimeout(next, n < 20 ? 90 : 250));
        // A key that comes before the next thing is shown does not mean that, and gives no verdict.
        while (shown() === before) await new Promise((next) => setTimeout(next, 5));
      }
      while (durable.length < keys.length) await new Promise((next) => setTimeout(next, 20));
      return keys.map((key, n) => durable[n]! - key);
    });
    rows.push({
      figure: `P15 a verdict durable, from its key, p95 of ${ours.length} (${percentile(ours, 0.5).toFixed(0)} ms in the middle)`,
      ours: [percentile(ours, 0.95)],
      atMost: 150,
      aim: 50,
    });
  } finally {
    await browser.close();
    await vuoto.stop();
  }
}
