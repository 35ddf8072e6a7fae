import { isDeepStrictEqual } from "node:util";
import { Problem } from "@/core/problem";
import { prepared } from "../db/prepared";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import { type Depot, type DepotNow, depotNow, depots } from "./depots";
import { lastSeen } from "./seen";
import { sendingRows } from "./sending-row";
import type { Capacity } from "./store";

/** How a cloud was when it was last asked. */
interface Known {
  at?: number;
  facts?: Pick<DepotNow, "problem" | "capacity">;
  asking?: Promise<void>;
  /** Something changed while it was being asked: what it answers may be how it was before. */
  doubted?: true;
}

const known = sharedMemory<Engine, Map<string, Known>>("depots");

/** What was heard is taken for true for so long. */
const staleMs = 4000;
/** While something is on its way to it, for less. */
const staleSoonMs = 2000;
/** One that is in trouble is asked again after so long, while a window is open: how it is doing comes from nowhere else. */
const troubledMs = 15_000;
/** A page does not wait longer than this for a cloud; it hears of it later. */
const pageWaitMs = 400;

/** What lies in depots has just changed: a cloud is asked anew, also where that was done a moment ago. */
export function doubtDepots(engine: Engine): void {
  for (const last of known.get(engine)?.values() ?? []) {
    last.at = undefined;
    if (last.asking) last.doubted = true;
  }
}

/** The depots as they were last seen: those on this computer now, a cloud as of a moment ago. It is asked again meanwhile. */
export async function depotsSeen(engine: Engine): Promise<(DepotNow & { before?: Capacity })[]> {
  const all = await Promise.all(
    depots(engine).map((depot) => (depot.record.kind === "cloud" ? seen(engine, depot) : depotNow(depot))),
  );
  return all.map((depot) => {
    if (depot.problem) return { ...depot, before: lastSeen(engine.db, depot.id) };
    noteSeen(engine, depot.id, depot.capacity);
    return depot;
  });
}

function noteSeen(engine: Engine, depot: string, { free, total }: Capacity): void {
  const { db } = engine;
  const before = lastSeen(db, depot);
  if (before && before.free === free && before.total === total) return;
  prepared<[string, number | null, number | null, number]>(
    db,
    `INSERT INTO depot_seen (depot, free, total, at) VALUES (?, ?, ?, ?)
     ON CONFLICT (depot) DO UPDATE SET free = excluded.free, total = excluded.total, at = excluded.at`,
  ).run(depot, free ?? null, total ?? null, engine.now());
}

/** Asks a cloud how it is, and whoever shows it is told where that changed. */
async function hear(engine: Engine, depot: Depot, last: Known): Promise<void> {
  const before = JSON.stringify(last.facts);
  let heard: DepotNow;
  do {
    delete last.doubted;
    heard = await depotNow(depot);
  } while (last.doubted && !engine.closing);
  const { problem, capacity } = heard;
  Object.assign(last, { at: engine.now(), facts: { problem, capacity }, asking: undefined });
  if (engine.closing) return;
  if (JSON.stringify(last.facts) !== before) engine.events.emit({ type: "changed", what: "parcels" });
  if (problem)
    engine.clock.after(troubledMs, () => {
      if (engine.closing || last.asking || engine.events.windows === 0) return;
      if (depots(engine).some(({ id, address }) => id === depot.id && isDeepStrictEqual(address, depot.address)))
        last.asking = hear(engine, depot, last);
    });
}

async function seen(engine: Engine, depot: Depot): Promise<DepotNow> {
  const all = known.get(engine) ?? new Map<string, Known>();
  known.set(engine, all);
  // With another sign-in or certificate it may answer otherwise.
  const key = JSON.stringify(depot.address);
  const last = all.get(key) ?? {};
  all.set(key, last);
  const heard = last.facts;
  const isBusy = sendingRows(engine.db).some((row) => row.depot === depot.id && row.state === "going");
  if (!last.asking && (last.at === undefined || engine.now() - last.at > (isBusy ? staleSoonMs : staleMs))) {
    last.asking = hear(engine, depot, last);
    if (!heard) await Promise.race([last.asking, new Promise((next) => setTimeout(next, pageWaitMs).unref())]);
  }
  const asked = new Problem("depot-gone", { place: depot.title, detail: "it is being asked" });
  return { ...depot, ...(last.facts ?? { problem: asked, capacity: {} }) };
}
