import { rawFromText } from "@/core/names/raw";
import { openEngine } from "@/server/opening";
import { itemsOn } from "@/server/survey/items";

/**
 * A process that opens an account for the first time, as one that serves does, and looks at all of it. Says when the things on
 * the worktops were known and when all was, in milliseconds since it began, and how much memory it took at
 * most, in kilobytes. Words: ACCOUNT DATA
 */
const [account, data] = process.argv.slice(2) as [string, string];
const began = performance.now();
const since = () => performance.now() - began;
const engine = await openEngine({ root: rawFromText(account), data }, { lasting: true });
let things = 0;
const heard = engine.events.listen(({ event }) => {
  if (event.type !== "changed") return;
  if (things === 0 && itemsOn(engine.db, "desktop").length > 0) things = since();
});
await engine.lookAgain("all");
const done = since();
heard();
await engine.close();
process.stdout.write(JSON.stringify({ things, done, memory: process.resourceUsage().maxRSS }));
process.exit(0);
