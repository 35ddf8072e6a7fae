import type { SendInput } from "@/contract/depots";
import type { ReportJson } from "@/contract/items";
import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { itemById } from "../survey/items";
import { expectOwn } from "./add";
import { collectedIn, depotInReach, type Parcel, parcelMeant } from "./depots";
import { ParcelFiles } from "./parcel-files";
import { sendingRow } from "./sending-row";

/**
 * Sends a parcel to a depot, or goes on with it: packed, sent, read back, checksums compared; only then each original goes to
 * the trash, as one act: undone, the originals are back, and the parcel stays in its depot. Waits until that is done, or
 * without `wait` only until it is under way.
 */
export async function send(engine: Engine, input: SendInput): Promise<ReportJson> {
  const parcel = await parcelMeant(engine, input.parcel);
  const row = sendingRow(engine.db, parcel.id);
  if (parcel.state === "sent" && !row) throw new Problem("unknown-parcel", { name: `${parcel.title} still to be sent` });
  if (input.depot === undefined && !row) throw new Problem("unknown-depot", {});
  const depot = await depotInReach(engine, input.depot ?? row!.depot);
  expectOwn(engine, depot.address);
  const things = collectedIn(engine, parcel.id).length;
  if (things === 0 && !row) throw new Problem("parcel-empty", { name: parcel.title });
  const said = (words: string): ReportJson => ({ entry: null, act: "send", words, done: things, refused: [] });
  const what = `${engine.words().counted(things, "thing")} to ${depot.title} in the parcel “${parcel.title}”`;
  if (input.dryRun) return said(`Archived ${what}`);
  const arrival = engine.sendings.arrival(parcel.id);
  // Who does not wait is told by the view.
  arrival.catch(() => {});
  engine.sendings.begin(parcel.id, depot.id);
  return input.wait === false ? said(`On their way: ${what}`) : arrival;
}

const hadArrived = (title: string) => `“${title}” had arrived at that very moment; undo brings its things back`;

/** Stops a parcel where it is on its way; sending goes on from there. */
export async function pauseSending(engine: Engine, { parcel: named }: { parcel: string }): Promise<{ words: string }> {
  const parcel = await onItsWay(engine, named);
  const paused = await engine.sendings.pauseParcel(parcel.id);
  return { words: paused ? `“${parcel.title}” is paused; it goes on from where it stopped` : hadArrived(parcel.title) };
}

/**
 * Stops a parcel and takes away what was sent of it. Every original lies where it lay.
 * @throws Problem "only-copy" where one no longer does, and all of it was sent: that may be the only copy
 */
export async function cancelSending(engine: Engine, { parcel: named }: { parcel: string }): Promise<{ words: string }> {
  const parcel = await onItsWay(engine, named);
  const { db, disk } = engine;
  // Once it was to be given its name, all of it lies there.
  if (sendingRow(db, parcel.id)?.bag)
    for (const { item, payload } of new ParcelFiles(db, parcel.id).things()) {
      const path = itemById(db, item)?.path;
      if (path === undefined || !disk.identity(path)) throw new Problem("only-copy", { name: payload, place: parcel.title });
    }
  const became = await engine.sendings.cancelParcel(parcel.id);
  if (became === "arrived") return { words: hadArrived(parcel.title) };
  const rest =
    became === "gone" ? "what was sent of it is gone from the depot" : "what was sent of it goes once the depot is in reach";
  return { words: `“${parcel.title}” is not sent; ${rest}, and everything lies where it lay` };
}

/** A parcel that is on its way. @throws Problem "not-on-its-way" */
async function onItsWay(engine: Engine, named: string): Promise<Parcel> {
  const parcel = await parcelMeant(engine, named);
  if (!sendingRow(engine.db, parcel.id) || parcel.state === "sent") throw new Problem("not-on-its-way", { name: parcel.title });
  return parcel;
}
