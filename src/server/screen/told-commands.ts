import { spawn } from "node:child_process";
import { Problem } from "@/core/problem";
import { answerOf, readTold, type ScreenCommands } from "@/core/screen/told";
import type { Account } from "../account";
import { readDataFile } from "../data-file";
import type { Db } from "../db/db";
import { sharedMemory } from "../shared";

/** What a screen is told with: a file of the person's own in Vuoto's data folder. */
export const toldFile = "told.json";

/** Read each time: it may have been changed. @throws Problem "told-unfit" */
export const toldOf = (account: Pick<Account, "data">): ScreenCommands => readTold(readDataFile(account, toldFile));

const longestMs = 5000;
const mostOutput = 64 * 1024;

export type Outcome = { output: string } | { failed: string };

/**
 * Runs a line of the file, without a shell, for five seconds at most. Whatever it started in its process group ends with it,
 * and what it prints beyond a bound ends it.
 */
export function runLine([program, ...words]: readonly string[], within = longestMs): Promise<Outcome> {
  return new Promise((done) => {
    // Its own process group, which can be ended as a whole.
    const child = spawn(program!, words, { cwd: "/", detached: true, stdio: ["ignore", "pipe", "pipe"] });
    let output = "";
    let printed = 0;
    let isOver = false;
    const over = (outcome: Outcome) => {
      // Ended once: later its number may be another program's.
      if (isOver) return;
      isOver = true;
      clearTimeout(timer);
      endGroup(child.pid);
      // What got out of the group may hold them open for ever.
      child.stdout.destroy();
      child.stderr.destroy();
      child.removeAllListeners().on("error", () => {});
      done(outcome);
    };
    const timer = setTimeout(() => over({ failed: `it took longer than ${within / 1000} seconds` }), within);
    const read = (part: Buffer, kept: boolean) => {
      printed += part.length;
      if (printed > mostOutput) over({ failed: "it printed without end" });
      else if (kept) output += part.toString("utf8");
    };
    child.stdout.on("data", (part: Buffer) => read(part, true));
    child.stderr.on("data", (part: Buffer) => read(part, false));
    child.once("error", (error: NodeJS.ErrnoException) =>
      over({
        failed: error.code === "ENOENT" ? `there is no program ${program}` : `${program} cannot be started (${error.code})`,
      }),
    );
    child.once("exit", (code, signal) => {
      const end = () =>
        over(code === 0 ? { output } : { failed: signal ? `it was ended by ${signal}` : `it ended with ${code}` });
      // What it printed last may still be on its way; what holds its output open beyond that is not waited for.
      child.once("close", end);
      setTimeout(end, 200).unref();
    });
  });
}

function endGroup(pid: number | undefined): void {
  try {
    if (pid !== undefined) process.kill(-pid, "SIGKILL");
  } catch {
    // Nothing is left of it.
  }
}

export interface Said {
  /** What the screen said it shows; undefined where it cannot be asked, or did not answer. */
  answer?: "hidden" | "shown";
  at: number;
}

const said = sharedMemory<Db, Said>("what the screen said");

/** What the screen said last. */
export const saidLast = ({ db }: { db: Db }): Said | undefined => said.get(db);

/** Asks the screen what it shows, where it can be asked. */
export async function askScreen(of: { db: Db; now(): number }, { ask }: ScreenCommands): Promise<Said["answer"]> {
  const outcome = ask && (await runLine(ask));
  const answer = outcome && "output" in outcome ? answerOf(outcome.output) : undefined;
  said.set(of.db, { answer, at: of.now() });
  return answer;
}

/**
 * Tells the screen, and asks it whether it did. Where hiding fails it is told to show: all or nothing.
 * @throws Problem "told-failed"
 */
export async function tellScreen(of: { db: Db; now(): number }, told: ScreenCommands, to: "hide" | "show"): Promise<void> {
  const outcome = await runLine(told[to]);
  const answer = await askScreen(of, told);
  const contrary = answer !== undefined && answer !== (to === "hide" ? "hidden" : "shown");
  if (!("failed" in outcome) && !contrary) return;
  const detail = "failed" in outcome ? outcome.failed : `it says that they are ${answer}`;
  if (to === "hide" && answer !== "shown") {
    await runLine(told.show);
    await askScreen(of, told);
  }
  throw new Problem("told-failed", { name: to === "hide" ? "hide its icons" : "show its icons", detail });
}
