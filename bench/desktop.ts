import { type ChildProcess, spawn } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { chromium } from "@playwright/test";
import { browserWords, folder, root, rows } from "./measure";

const icons = 5000;
const port = 4197;

interface TraceEvent {
  name: string;
  ph: string;
  ts: number;
  dur?: number;
  tid: number;
}

/** The script of each frame, milliseconds, from a trace: what functions took between one frame's beginning and the next. */
function scriptOfFrames(events: TraceEvent[]): number[] {
  const main = events.find(({ name }) => name === "FunctionCall")?.tid;
  const own = events.filter(({ tid }) => tid === main).sort((a, b) => a.ts - b.ts);
  const begins = own.filter(({ name }) => name === "ProxyMain::BeginMainFrame");
  return begins.slice(1).map(({ ts }, n) => {
    let took = 0;
    let until = 0;
    for (const event of own) {
      if (event.ts < begins[n]!.ts || event.ts >= ts || event.dur === undefined) continue;
      if (!/^(FunctionCall|EvaluateScript|RunMicrotasks|TimerFire|FireAnimationFrame)$/.test(event.name)) continue;
      // What was called within another is in that already.
      if (event.ts < until) continue;
      took += event.dur;
      until = event.ts + event.dur;
    }
    return took / 1000;
  });
}

/** A desktop of 5,000 icons: how soon the views of quiet are there, how soon /screen follows a command, and the script of a frame while it is dragged. */
export async function manyIcons(): Promise<void> {
  const account = path.join(folder, "many-icons");
  const data = `${account}-data`;
  fs.mkdirSync(`${account}/Desktop`, { recursive: true });
  fs.mkdirSync(data, { mode: 0o700 });
  // On the screen that Vuoto draws, which knows places.
  fs.writeFileSync(path.join(data, "sample"), "", { mode: 0o600 });
  for (let n = 0; n < icons; n++)
    fs.writeFileSync(`${account}/Desktop/thing ${n}.${n % 3 === 0 ? "csv" : "txt"}`, `thing ${n}\n`);
  const words = ["--account", account, "--data", data, "start", "--port", String(port)];
  const server: ChildProcess = spawn(process.execPath, [path.join(root, "bin/vuoto.mjs"), ...words], {
    stdio: ["ignore", "pipe", "inherit"],
  });
  let said = "";
  const link = await new Promise<string>((done) => {
    server.stdout!.on("data", (part: Buffer) => {
      said += part.toString("utf8");
      const found = /http:\S+enter\S+/.exec(said);
      if (found) done(found[0]);
    });
  });
  const { key } = JSON.parse(fs.readFileSync(path.join(data, "server.json"), "utf8")) as { key: string };
  const ask = (what: string, input: unknown) =>
    fetch(`http://127.0.0.1:${port}/api/${what}`, {
      method: "POST",
      headers: { "x-vuoto-key": key, "content-type": "application/json" },
      body: JSON.stringify(input),
    });
  await ask("survey/refresh", {});
  const browser = await chromium.launch(browserWords);
  try {
    const page = await browser.newPage({ viewport: { width: 1280, height: 800 } });
    await page.goto(link);
    await page.getByRole("button", { name: "Let this browser in" }).click();
    await page.waitForURL(/survey/);
    const open = async (view: string) => {
      const began = performance.now();
      await page.goto(`http://127.0.0.1:${port}${view}`, { waitUntil: "commit" });
      if (view.includes("key")) await page.getByText("Press your key now.").waitFor();
      else await page.waitForFunction(() => (document.querySelector("canvas")?.width ?? 0) > 400);
      return performance.now() - began;
    };
    for (const view of ["/quiet", "/screen", "/quiet?sheet=key"]) {
      const took: number[] = [];
      for (let n = 0; n < 6; n++) took.push(await open(view));
      rows.push({ figure: `${view}, ${icons} icons`, ours: took.slice(1), atMost: 1000, aim: 500 });
    }
    await open("/screen");
    await page.waitForTimeout(1500);
    const follows: number[] = [];
    for (let n = 0; n < 8; n++) {
      const seen = page.evaluate(() => {
        const list = document.querySelector("[role=listbox]")!;
        const before = list.getAttribute("aria-label");
        return new Promise<number>((done) => {
          new MutationObserver((_, observer) => {
            if (list.getAttribute("aria-label") === before) return;
            observer.disconnect();
            requestAnimationFrame(() => done(Date.now()));
          }).observe(list, { attributes: true });
        });
      });
      await ask("quiet/show", { level: "toggle" });
      const done = Date.now();
      follows.push(Math.max(0, (await seen) - done));
      await page.waitForTimeout(900);
    }
    rows.push({ figure: `/screen after a command, ${icons} icons`, ours: follows, atMost: 100, aim: 50 });

    const session = await page.context().newCDPSession(page);
    const events: TraceEvent[] = [];
    session.on("Tracing.dataCollected", ({ value }) => void events.push(...(value as unknown as TraceEvent[])));
    const box = (await page.getByRole("listbox").boundingBox())!;
    await page.keyboard.press("Tab");
    await page.getByRole("listbox").focus();
    await page.keyboard.press("Control+a");
    await session.send("Tracing.start", {
      categories: "devtools.timeline,disabled-by-default-devtools.timeline,devtools.timeline.frame,cc",
      transferMode: "ReportEvents",
    });
    await page.mouse.move(box.x + 60, box.y + 60);
    await page.mouse.down();
    for (let n = 0; n < 240; n++) {
      await page.mouse.move(box.x + 60 + n, box.y + 60 + (n % 40));
      await page.waitForTimeout(8);
    }
    const complete = new Promise((done) => session.once("Tracing.tracingComplete", done));
    await session.send("Tracing.end");
    await complete;
    await page.keyboard.press("Escape");
    await page.mouse.up();
    // Frames in which nothing was moved tell nothing.
    const frames = scriptOfFrames(events)
      .filter((took) => took > 0)
      .sort((a, b) => a - b);
    console.log(`  ${frames.length} frames, longest ${frames.at(-1)?.toFixed(1)} ms of script`);
    rows.push({
      figure: `script of a frame, ${icons} icons dragged, p95`,
      ours: [frames[Math.floor(frames.length * 0.95)] ?? Number.NaN],
      atMost: 16,
      aim: 8,
    });
  } finally {
    await browser.close();
    const ended = new Promise((done) => server.once("close", done));
    server.kill("SIGTERM");
    await ended;
  }
}
