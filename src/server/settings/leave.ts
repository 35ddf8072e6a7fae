import type { LeaveAnswer } from "@/contract/settings";
import type { Engine } from "../engine";
import { changeOccasion, occasionsNow } from "../quiet/occasions";
import { quiet } from "../quiet/quiet";
import { quietStatus } from "../quiet/status";
import { launcher, launchersNow } from "./launcher";

/**
 * Brings everything back in sight, ends the occasions that are under way, and takes away what Vuoto put among the programs and at
 * log-in. Each is an act of its own, and can be undone; the record stays, and with it every undo, and what the person wrote.
 */
export async function leave(engine: Engine, { dryRun }: { dryRun?: boolean }): Promise<LeaveAnswer> {
  const reports: LeaveAnswer["reports"] = [];
  for (const { id, period } of occasionsNow(engine))
    if (period) reports.push(await changeOccasion(engine, { occasion: id, does: "end", dryRun }));
  const { hidden, level } = quietStatus(engine);
  if (hidden || level !== "everything") reports.push(await quiet(engine, { level: "everything", dryRun }));
  for (const { which, state } of launchersNow(engine))
    if (state === "as made" || state === "changed") reports.push(await launcher(engine, { which, away: true, dryRun }));
  const begins = occasionsNow(engine).flatMap(({ occasion: { title }, next: [next] }) =>
    next ? [{ title, at: new Date(next.start).toISOString() }] : [],
  );
  return { reports, begins };
}
