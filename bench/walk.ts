import { rawFromText } from "@/core/names/raw";
import { walkHomes } from "@/server/homes/homes";
import { openEngine } from "@/server/opening";

/** A process that walks an account once and says how much memory it took at most, in kilobytes. Words: ACCOUNT DATA */
const [account, data] = process.argv.slice(2) as [string, string];
const engine = await openEngine({ root: rawFromText(account), data });
await walkHomes(engine);
await engine.close();
process.stdout.write(String(process.resourceUsage().maxRSS));
