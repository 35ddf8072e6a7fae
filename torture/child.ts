import { rawFromText } from "@/core/names/raw";
import { openEngine } from "@/server/opening";
import { acts } from "../fixtures/acts";
import { faultyCalls } from "../fixtures/faulty-calls";

/**
 * One process of the torture: opens an account, does one act, and is killed by the system in the middle of it, at a
 * counted call (`before 7`, `after 7`), or from outside at a random moment (`any 0`).
 * Words: FOLDER ACT prepare|act|recover any|before|after N
 */
const [folder, name, part, how, at] = process.argv.slice(2) as [string, string, string, "any" | "before" | "after", string];

const { before, act } = acts[name]!;
const calls = faultyCalls(
  how === "any" ? undefined : { at: Number(at), how: how === "before" ? "kill before" : "kill after" },
  () => {
    process.kill(process.pid, "SIGKILL");
    // Nothing more is done until it comes.
    Atomics.wait(new Int32Array(new SharedArrayBuffer(4)), 0, 0);
  },
);
const engine = await openEngine(
  { root: rawFromText(`${folder}/account`), data: `${folder}/data` },
  { calls: part === "prepare" ? undefined : calls },
);
if (part === "prepare") {
  await engine.lookAgain("all");
  await before?.(engine, folder);
} else if (part === "act") {
  process.stdout.write("ready\n");
  await act(engine, folder);
  process.stdout.write(`over ${calls.count()}\n`);
}
await engine.close();
