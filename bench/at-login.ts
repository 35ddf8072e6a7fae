import { spawn, spawnSync } from "node:child_process";
import fs from "node:fs";
import path from "node:path";
import { readDesktopEntry } from "@/core/survey/desktop-entry";
import { folder, type Row, root, rows, timed } from "./measure";

const pause = (ms: number) => new Promise((done) => setTimeout(done, ms));

/** What runs from log-in on, as its entry starts it: memory at rest, and after twenty times of quiet; and how long a command takes. */
export async function atLogin(): Promise<void> {
  for (const icons of [100, 1000]) {
    const account = path.join(folder, `login-${icons}`);
    fs.mkdirSync(`${account}/Desktop`, { recursive: true });
    for (let n = 0; n < icons; n++) fs.writeFileSync(`${account}/Desktop/thing-${n}.txt`, `thing ${n}\n`);
    const words = [path.join(root, "bin/vuoto.mjs"), "--account", account, "--data", `${account}-data`];
    const run = (...given: string[]) => {
      const done = spawnSync(process.execPath, given, { encoding: "utf8" });
      if (done.status !== 0) throw new Error(done.stderr);
    };
    run(...words, "at-login", "on");
    const entry = readDesktopEntry(fs.readFileSync(`${account}/.config/autostart/vuoto.desktop`, "utf8"))!;
    const small = spawn("sh", ["-c", `exec ${entry.get("Exec")}`], { stdio: "ignore" });
    const memory = () => Number(/VmRSS:\s+(\d+)/.exec(fs.readFileSync(`/proc/${small.pid}/status`, "utf8"))![1]) * 1.024e-3;
    await pause(9000);
    rows.push({ figure: `at log-in, ${icons} icons, at rest`, ours: [memory()], atMost: 80, aim: 60, unit: "MB" });
    const wakings = () =>
      Number(/^voluntary_ctxt_switches:\s+(\d+)/m.exec(fs.readFileSync(`/proc/${small.pid}/status`, "utf8"))![1]);
    // It goes to rest within a minute.
    let least = Number.POSITIVE_INFINITY;
    for (let n = 0; n < 7 && least > 1; n++) {
      const before = wakings();
      await pause(8000);
      least = Math.min(least, wakings() - before);
    }
    rows.push({
      figure: `at log-in, ${icons} icons, wakings in 8 s at rest`,
      ours: [least],
      atMost: 4,
      aim: 1,
      unit: "",
    });
    const row: Row = { figure: `at log-in, quiet toggle by command, ${icons} icons`, ours: [], theirs: [], atMost: 3, aim: 1.5 };
    for (let n = 0; n < 20; n++) {
      row.theirs!.push(await timed(() => run("-e", "0")));
      row.ours.push(await timed(() => run(...words, "quiet", "toggle")));
    }
    // For more icons it is the moves that take the time.
    if (icons === 100) rows.push(row);
    await pause(9000);
    rows.push({ figure: `at log-in, ${icons} icons, after twenty`, ours: [memory()], atMost: 80, aim: 60, unit: "MB" });
    const ended = new Promise((done) => small.once("close", done));
    small.kill("SIGTERM");
    await ended;
  }
}
