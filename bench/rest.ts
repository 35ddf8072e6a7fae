import { fork } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { chromium } from "@playwright/test";
import { makeSample } from "@/demo/make-sample";
import { recordingName } from "@/standins/recording";
import { serve } from "./busy";
import { browserWords, folder, root, rows } from "./measure";

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));
const views = [
  "survey",
  "homes",
  "homes?sheet=overlooked",
  "sitting",
  "depots",
  "quiet",
  "ledger",
  "settings",
  "screen",
  "survey",
];

/** A process and all that it started, by their ids. */
function family(pid: number): number[] {
  const children = new Map<number, number[]>();
  for (const name of fs.readdirSync("/proc"))
    try {
      if (!/^\d+$/.test(name)) continue;
      const parent = Number(/^PPid:\s+(\d+)/m.exec(fs.readFileSync(`/proc/${name}/status`, "utf8"))![1]);
      children.set(parent, [...(children.get(parent) ?? []), Number(name)]);
    } catch {
      // Ended meanwhile.
    }
  const all = [pid];
  for (const one of all) all.push(...(children.get(one) ?? []));
  return all;
}

/** What they share counts once: the proportional set size (proc(5), smaps_rollup); megabytes. */
const memoryOf = (pid: number) =>
  family(pid).reduce((sum, one) => {
    try {
      return sum + Number(/^Pss:\s+(\d+)/m.exec(fs.readFileSync(`/proc/${one}/smaps_rollup`, "utf8"))![1]) * 1.024e-3;
    } catch {
      return sum;
    }
  }, 0);

/** How often their threads were woken so far. */
const wakingsOf = (pid: number) =>
  family(pid).reduce((sum, one) => {
    try {
      return fs
        .readdirSync(`/proc/${one}/task`)
        .map((task) => fs.readFileSync(`/proc/${one}/task/${task}/status`, "utf8"))
        .reduce((all, status) => all + Number(/^voluntary_ctxt_switches:\s+(\d+)/m.exec(status)![1]), sum);
    } catch {
      return sum;
    }
  }, 0);

/** The processor's time that they took so far; milliseconds. */
const processorOf = (pid: number) =>
  family(pid).reduce((sum, one) => {
    try {
      const [, fields] = /\)\s(.*)/.exec(fs.readFileSync(`/proc/${one}/stat`, "utf8"))!;
      const [user, system] = fields!.split(" ").slice(11, 13).map(Number) as [number, number];
      return sum + (user + system) * 10;
    } catch {
      return sum;
    }
  }, 0);

/** P18, P20: the sample with a page open: memory after each view was opened and five minutes at rest, its peak; how often it wakes. */
export async function atRest(): Promise<void> {
  const account = path.join(folder, "rest/account");
  await makeSample(path.dirname(account), `${account}-data`, Date.now());
  const vuoto = await serve(account);
  const browser = await chromium.launch(browserWords);
  let peak = 0;
  const watch = setInterval(() => {
    peak = Math.max(peak, memoryOf(vuoto.pid()));
  }, 250);
  try {
    const context = await browser.newContext({ viewport: { width: 1280, height: 800 } });
    const [name, value] = vuoto.cookie.split("=") as [string, string];
    await context.addCookies([{ name, value, url: vuoto.base, httpOnly: true, sameSite: "Strict" }]);
    const page = await context.newPage();
    let asked = 0;
    for (const view of views) {
      await page.goto(`${vuoto.base}/${view}`);
      await pause(3000);
    }
    page.on("request", () => asked++);
    await pause(240_000);
    const [wakings, processor] = [wakingsOf(vuoto.pid()), processorOf(vuoto.pid())];
    await pause(60_000);
    rows.push(
      { figure: "P18 memory after five minutes at rest", ours: [memoryOf(vuoto.pid())], atMost: 250, aim: 180, unit: "MB" },
      { figure: "P18 its peak", ours: [peak], atMost: 400, aim: 300, unit: "MB" },
      {
        figure: "P20 wake-ups a minute at rest, a page open",
        ours: [wakingsOf(vuoto.pid()) - wakings],
        atMost: 30,
        aim: 5,
        unit: "",
      },
      {
        figure: "P20 processor in a minute at rest",
        ours: [processorOf(vuoto.pid()) - processor],
        atMost: 600,
        aim: 60,
      },
    );
    // The sample's recording goes on: a file that grows all the while.
    const recorder = fork(path.join(root, "dist/recorder.mjs"), [path.join(account, "Desktop", recordingName)], {
      stdio: "ignore",
      execArgv: [],
    });
    // That a file came is asked about; that it grows is told.
    await pause(5000);
    const came = asked;
    const beside = processorOf(vuoto.pid());
    await pause(60_000);
    rows.push({
      figure: "P20 processor in a minute beside a file that grows",
      ours: [processorOf(vuoto.pid()) - beside],
      atMost: 3000,
      aim: 600,
    });
    recorder.kill();
    if (asked > came || came > 1) throw new Error(`the page at rest asked ${asked} times`);
  } finally {
    clearInterval(watch);
    await browser.close();
    await vuoto.stop();
  }
}

const said = {
  send: "sent",
  look: "listed in its parcel",
  back: "brought back",
  steps: "its steps listed",
  undo: "and that undone",
};

/** P20: how long the event loop is kept while a folder of 50,000 files is packed and sent, and while it is brought back. */
export async function manyFiles(): Promise<void> {
  const account = path.join(folder, "many-files");
  const depot = path.join(folder, "many-files-depot");
  for (const place of [depot, `${account}/Desktop/many`]) fs.mkdirSync(place, { recursive: true });
  for (let n = 0; n < 50_000; n++) fs.writeFileSync(`${account}/Desktop/many/file ${n}.txt`, `${n}\n`);
  const vuoto = await serve(account);
  try {
    await vuoto.ask("survey/refresh", {});
    const { worktops } = (await vuoto.ask("survey/survey", {})) as unknown as { worktops: { items: { id: string }[] }[] };
    await vuoto.ask("depots/add", { location: depot, title: "Disk" });
    await vuoto.ask("sitting/archive", { items: worktops[0]!.items.map(({ id }) => id), parcel: "Many" });
    const stalls = { send: 0, look: 0, back: 0, steps: 0, undo: 0 };
    const during = async (what: keyof typeof stalls, work: () => Promise<unknown>) => {
      await vuoto.delay();
      await work();
      stalls[what] = (await vuoto.delay()).max;
    };
    await during("send", () => vuoto.ask("depots/send", { parcel: "Many", depot: "Disk" }));
    await during("look", () => vuoto.ask("depots/show", { parcel: "Many" }));
    await during("back", () => vuoto.ask("depots/restore", { parcel: "Many" }));
    const [last] = (await vuoto.ask("ledger/list", {})) as unknown as { id: number }[];
    await during("steps", () => vuoto.ask("ledger/steps", { entry: last!.id }));
    const back = fs.readdirSync(`${account}/Desktop/many`).length;
    if (back !== 50_000) throw new Error(`${back} came back`);
    await during("undo", () => vuoto.ask("ledger/undo", {}));
    for (const [what, stall] of Object.entries(stalls))
      rows.push({
        figure: `P20 event loop kept, a folder of 50,000: ${said[what as keyof typeof stalls]}`,
        ours: [stall],
        atMost: 100,
        aim: 50,
      });
  } finally {
    await vuoto.stop();
  }
}
