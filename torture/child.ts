import { type Raw, rawFromText } from "@/core/names/raw";
import { openEngine } from "@/server/engine";
import { put } from "@/server/homes/put";
import { undo } from "@/server/ledger/undo";
import { quiet } from "@/server/quiet/quiet";
import { letGo } from "@/server/sitting/let-go";
import { acts } from "../fixtures/acts";
import type { Place } from "../fixtures/engine";
import { idsOn } from "../fixtures/engine";
import { faultyCalls } from "../fixtures/faulty-calls";

/**
 * One process of the torture: opens an account, does one act, and is killed by the system in the middle of it, at a
 * counted call (`before 7`, `after 7`), or from outside at a random moment (`any 0`).
 * Words: FOLDER ACT prepare|act|recover any|before|after N
 */
const [folder, name, part, how, at] = process.argv.slice(2) as [string, string, string, "any" | "before" | "after", string];

const large: typeof acts = {
  "put 300": { act: (e) => put(e, { home: { title: "New" }, items: idsOn(e) }) },
  "let go of 300": { act: (e) => letGo(e, { items: idsOn(e) }) },
  "quiet 300": { act: (e) => quiet(e, { level: "bare" }) },
  "undo 300": { before: (e) => letGo(e, { items: idsOn(e) }), act: (e) => undo(e, {}) },
};

const { before, act } = (acts[name] ?? large[name])!;
const calls = faultyCalls(
  how === "any" ? undefined : { at: Number(at), how: how === "before" ? "kill before" : "kill after" },
  () => process.kill(process.pid, "SIGKILL"),
);
const place = { folder } as Place;
const engine = await openEngine(
  { root: rawFromText(`${folder}/account`) as Raw, data: `${folder}/data` },
  { calls: part === "prepare" ? undefined : calls },
);
if (part === "prepare") {
  await engine.lookAgain("all");
  await before?.(engine, place);
} else if (part === "act") {
  process.stdout.write("ready\n");
  await act(engine, place);
  process.stdout.write(`over ${calls.count()}\n`);
}
await engine.close();
