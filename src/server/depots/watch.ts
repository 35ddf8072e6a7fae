import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import { type Depot, type DepotNow, depotNow, depots } from "./depots";

/** How a cloud was when it was last asked. */
interface Known {
  at?: number;
  facts?: Pick<DepotNow, "problem" | "capacity">;
  asking?: Promise<void>;
}

const known = sharedMemory<Engine, Map<string, Known>>("depots");

/** What was heard is taken for true for so long. */
const staleMs = 15_000;
/** A page does not wait longer than this for a cloud; it hears of it later. */
const pageWaitMs = 400;

/** The depots as they were last seen: those on this computer now, a cloud as of a moment ago. It is asked again meanwhile. */
export function depotsSeen(engine: Engine): Promise<DepotNow[]> {
  return Promise.all(depots(engine).map((depot) => (depot.record.kind === "cloud" ? seen(engine, depot) : depotNow(depot))));
}

async function seen(engine: Engine, depot: Depot): Promise<DepotNow> {
  const all = known.get(engine) ?? new Map<string, Known>();
  known.set(engine, all);
  // With another sign-in or certificate it may answer otherwise.
  const key = JSON.stringify(depot.address);
  const last = all.get(key) ?? {};
  all.set(key, last);
  const heard = last.facts;
  if (!last.asking && (last.at === undefined || engine.now() - last.at > staleMs)) {
    last.asking = depotNow(depot).then(({ problem, capacity }) => {
      const before = JSON.stringify(last.facts);
      Object.assign(last, { at: engine.now(), facts: { problem, capacity }, asking: undefined });
      if (JSON.stringify(last.facts) !== before && !engine.closing) engine.events.emit({ type: "changed", what: "parcels" });
    });
    if (!heard) await Promise.race([last.asking, new Promise((next) => setTimeout(next, pageWaitMs).unref())]);
  }
  const asked = new Problem("depot-gone", { place: depot.title, detail: "it is being asked" });
  return { ...depot, ...(last.facts ?? { problem: asked, capacity: {} }) };
}

/** What was heard of depots is old: something was done with one. */
export function forgetSeen(engine: Engine): void {
  for (const one of known.get(engine)?.values() ?? []) one.at = 0;
}
