import type { ReportJson } from "@/contract/items";
import type { Plan } from "@/core/ledger/step";
import type { SendStep } from "@/core/ledger/steps/send";
import { Problem, unlessProblem } from "@/core/problem";
import { readPosition } from "../db/record";
import type { Engine } from "../engine";
import { gentle } from "../jobs/gentle";
import { trashSteps } from "../ledger/trash-place";
import { itemById, thingsOf } from "../survey/items";
import { collectedIn, depotTitle, type Parcel, parcelById } from "./depots";
import { Following, isWhereItWas } from "./follow";
import { type LeftOut, ParcelFiles } from "./parcel-files";
import { sendingRow } from "./sending-row";

/**
 * A parcel has arrived: all of it was read back, and stands under its last name. Then each original is let go whose own bytes
 * were, as one act. What was left out, and why, is said with it.
 */
export async function letGoOf(engine: Engine, parcel: Parcel, signal: AbortSignal): Promise<ReportJson> {
  const { plan, fine, ...report } = await lettingGo(engine, parcel, signal);
  if (parcelById(engine, parcel.id)?.state === "sent") return report;
  // It was not there any more when it was looked at once more: it stays on its way.
  const [first] = report.refused.slice(plan.left.length);
  throw new Problem(first?.code === "depot-gone" || first?.code === "depot-failing" ? first.code : "not-verified", {
    name: parcel.title,
    place: depotTitle(engine, sendingRow(engine.db, parcel.id)?.depot),
  });
}

async function lettingGo(engine: Engine, parcel: Parcel, signal: AbortSignal) {
  const link = engine.carrier();
  const following = new Following(engine, parcel.id, (name, input) => link.carry(name, input, { ...gentle(), signal }), signal);
  try {
    await following.all();
    return await engine.ledger.perform(() => planLetGo(engine, parcel, following), { pace: gentle() });
  } finally {
    for (const { identity } of collectedIn(engine, parcel.id)) engine.disk.unfollow(identity.ino);
    await link.end();
  }
}

async function planLetGo(engine: Engine, parcel: Parcel, following: Following): Promise<Plan> {
  const { db } = engine;
  const row = sendingRow(db, parcel.id);
  if (!row?.bag || row.stage !== "named") throw new Problem("not-verified", { name: parcel.title });
  // It was stopped at the last moment.
  if (row.state !== "going") throw new Problem("cancelled", { name: `Sending “${parcel.title}”` });
  const files = new ParcelFiles(db, parcel.id);
  const known = new Map(files.things().map((thing) => [thing.item, thing]));
  const title = depotTitle(engine, row.depot);
  const items = collectedIn(engine, parcel.id).filter(({ id }) => known.get(id)?.state);
  // What was moved until this turn; nothing is moved any more in it. What is another by now is refused by its step.
  for (const item of items) {
    const state = known.get(item.id)!.state!;
    if (!isWhereItWas(engine, item.path, state)) await unlessProblem(() => following.isAsPacked(item, state));
  }
  const step: SendStep = {
    type: "send",
    parcel: parcel.id,
    title: parcel.title,
    depot: row.depot,
    depotTitle: title,
    bag: row.bag,
    madeAt: new Date(row.at).toISOString(),
    things: items.map((item) => ({
      item: item.id,
      from: item.path,
      payload: known.get(item.id)!.payload,
      identity: item.identity,
      position: readPosition(db, item.id),
    })),
  };
  return {
    act: "send",
    words: (done) => {
      if (!done.some(({ type }) => type === "trash"))
        return `Sent the parcel “${parcel.title}” to ${title}; nothing of it lies where it lay any more`;
      const things = thingsOf(done, ["trash"], (n) => engine.words().counted(n, "thing"));
      return `Archived ${things} to ${title} in the parcel “${parcel.title}”`;
    },
    steps: [step, ...trashSteps(engine, items, 0)],
    left: leftOut(engine, files.leftOut()),
  };
}

const leftOut = (engine: Engine, left: LeftOut[]): Plan["left"] =>
  left.map(({ item, said }) => {
    const { code, message } = new Problem(said.code, said.facts);
    return { name: itemById(engine.db, item)?.label ?? said.facts.name ?? "a thing", item, code, why: message };
  });

/** What is said where nothing of a parcel could be sent. */
export const nothingSent = (engine: Engine, parcel: Parcel, left: LeftOut[]): ReportJson => ({
  entry: null,
  act: "send",
  words: `Not done: nothing of the parcel “${parcel.title}” could be sent`,
  done: 0,
  refused: leftOut(engine, left),
});

/** Bytes of the things in a parcel, as far as they are known without looking. */
export const bytesOf = (engine: Engine, parcel: string): number =>
  collectedIn(engine, parcel).reduce((sum, item) => sum + item.bytes, 0);
