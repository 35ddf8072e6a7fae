import type { SendInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { bagName, payloadName } from "@/core/depots/bagit";
import type { Plan } from "@/core/ledger/step";
import type { SendStep } from "@/core/ledger/steps/send";
import type { Raw } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import { perform } from "../act";
import { readPosition } from "../db/record";
import { scanTree } from "../disk/tree";
import type { Engine } from "../engine";
import { gentle } from "../jobs/gentle";
import { trashSteps } from "../ledger/trash-place";
import { thingsOf } from "../survey/items";
import { collectedIn, depotInReach, parcelMeant } from "./depots";

/**
 * Sends a parcel to a depot: packed, sent, read back, checksums compared; only then each original goes to the trash. One
 * act: undone, the originals are back, and the parcel stays in its depot.
 */
export async function send(engine: Engine, input: SendInput): Promise<ReportJson> {
  const parcel = await parcelMeant(engine, input.parcel);
  // Each byte is read twice: once to copy it, once from the depot.
  let bytes = 0;
  for (const item of collectedIn(engine, parcel.id)) bytes += await bytesIn(engine, item.path);
  return perform(engine, `Sending “${parcel.title}”`, () => planSend(engine, input), {
    trial: input.dryRun,
    bytes: 2 * bytes,
    parcel: parcel.id,
  });
}

async function planSend(engine: Engine, input: SendInput): Promise<Plan> {
  const parcel = await parcelMeant(engine, input.parcel);
  if (parcel.state === "sent") throw new Problem("unknown-parcel", { name: `${parcel.title} still to be sent` });
  const depot = await depotInReach(engine, input.depot);
  const items = collectedIn(engine, parcel.id);
  if (items.length === 0) throw new Problem("parcel-empty", { name: parcel.title });
  const taken = new Set((await depot.store.list("" as Raw)).map(({ name }) => name));
  const packed = new Set<string>();
  const step: SendStep = {
    type: "send",
    parcel: parcel.id,
    title: parcel.title,
    depot: depot.id,
    depotTitle: depot.title,
    bag: bagName(parcel.title, (name) => taken.has(name)),
    madeAt: new Date(engine.now()).toISOString(),
    things: items.map((item) => ({
      item: item.id,
      from: item.path,
      payload: payloadName(item.name, packed),
      identity: item.identity,
      position: readPosition(engine.db, item.id),
    })),
  };
  return {
    act: "send",
    words: (done) => {
      const things = thingsOf(done, ["trash"], (n) => engine.words().counted(n, "thing"));
      return `Archived ${things} to ${depot.title} in the parcel “${parcel.title}”`;
    },
    steps: [step, ...trashSteps(engine, items, 0)],
    left: [],
  };
}

/** The bytes of all files in a thing, as far as they can be counted. */
async function bytesIn(engine: Engine, path: Raw): Promise<number> {
  try {
    return (await scanTree(engine.disk, path, gentle())).reduce((sum, entry) => sum + entry.bytes, 0);
  } catch (error) {
    if (error instanceof Problem) return 0;
    throw error;
  }
}
