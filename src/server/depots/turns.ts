import type { ChecksInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import type { Json } from "@/core/ledger/shapes";
import { asProblem } from "@/core/problem";
import { perform } from "../act";
import { readRecord } from "../db/record";
import type { Engine } from "../engine";
import { checkParcel } from "./check";
import { bytesThisMonth, lastCheck } from "./checks";
import { type Depot, depotMeant, depots, type Parcel, parcels } from "./depots";

/** Whether a depot's parcels are read over in turn by themselves; of a cloud, how much of it a month. */
export async function setChecks(engine: Engine, input: ChecksInput): Promise<ReportJson> {
  const depot = depotMeant(engine, input.depot);
  const bound = depot.record.kind === "cloud" ? input.bytesAMonth : undefined;
  return perform(
    engine,
    "Changing checks",
    () => {
      const key = `depot:${depot.id}`;
      const from = readRecord<Json>(engine.db, key);
      const checks = { on: input.on, ...(bound === undefined ? {} : { bytesAMonth: bound }) };
      return {
        act: "depot-checks",
        words: () =>
          input.on ? `Parcels in ${depot.title} are checked in turn` : `Parcels in ${depot.title} are checked when asked only`,
        steps: [{ type: "set", key, from, to: { ...(from as object), checks } }],
        left: [],
      };
    },
    { trial: input.dryRun },
  );
}

const dayMs = 86_400_000;
/** A parcel is read over again after so long. */
const turnMs = 90 * dayMs;

/** Whether a depot's parcels are read by themselves: folders and drives unless it was said otherwise, a cloud where it was said. */
const inTurn = ({ record }: Depot): boolean => record.checks?.on ?? record.kind !== "cloud";

/** The parcels whose turn it is: those not read for long, the one not read for longest first, within what a month allows. */
export function dueInTurn(engine: Engine): Parcel[] {
  const { db } = engine;
  const now = engine.now();
  const due = depots(engine).flatMap((depot) => {
    if (!inTurn(depot)) return [];
    const bound = depot.record.checks?.bytesAMonth;
    const left = bound === undefined ? Number.POSITIVE_INFINITY : bound - bytesThisMonth(db, depot.id, now);
    return parcels(engine).flatMap((parcel) => {
      if (parcel.depot !== depot.id || parcel.state !== "sent" || (parcel.bytes ?? 0) > left) return [];
      const at = lastCheck(db, parcel.id)?.at ?? parcel.sentAt ?? parcel.madeAt;
      return now - at > turnMs ? [{ parcel, at }] : [];
    });
  });
  return due.sort((a, b) => a.at - b.at).map(({ parcel }) => parcel);
}

/** Reads the first parcel whose turn it is and whose depot is there; those of a depot that is away wait, and keep no other. */
export async function checkInTurn(engine: Engine): Promise<void> {
  const away = new Set<string | null>();
  for (const parcel of dueInTurn(engine)) {
    if (away.has(parcel.depot)) continue;
    try {
      await checkParcel(engine, parcel);
      return;
    } catch (error) {
      const { code } = asProblem(error);
      if (code === "unexpected") throw error;
      if (code === "cancelled") return;
      away.add(parcel.depot);
    }
  }
}
