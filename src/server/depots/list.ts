import type { DepotState, ParcelState } from "@/contract/depot-states";
import type { DepotJson, ParcelAnswer, ParcelInput, ParcelJson } from "@/contract/depots";
import { rawFromJson } from "@/contract/raw-json";
import { type Raw, shownName } from "@/core/names/raw";
import { Problem } from "@/core/problem";
import type { Engine, Reading } from "../engine";
import { lastCheck } from "./checks";
import {
  bagOf,
  collectedIn,
  type DepotNow,
  depots,
  depotsNow,
  depotTitle,
  type Parcel,
  parcelMeant,
  parcels,
  thingsIn,
} from "./depots";
import { ParcelFiles } from "./parcel-files";
import { sendingRow } from "./sending-row";

/** How a depot is, in one word. */
export function depotState({ record, problem, capacity }: Pick<DepotNow, "record" | "problem" | "capacity">): DepotState {
  if (problem?.code === "sign-in-refused" || problem?.code === "sign-in-needed") return "no sign-in";
  if (problem) return record.kind === "cloud" ? "unreachable" : "away";
  return capacity.free === 0 ? "full" : "ready";
}

/** How a parcel is, in one word. */
export function parcelState({ db }: Reading, parcel: Parcel): ParcelState {
  const row = sendingRow(db, parcel.id);
  if (row && row.state !== "removing" && parcel.state !== "sent") return row.state === "going" ? "sending" : row.state;
  if (parcel.state === "sent") return (lastCheck(db, parcel.id)?.damaged.length ?? 0) > 0 ? "damaged" : "sent";
  return "collecting";
}

const time = (ms: number | undefined) => (ms === undefined ? null : new Date(ms).toISOString());

/** Depots as data, for the command line. */
export async function listDepots(engine: Engine): Promise<DepotJson[]> {
  const all = parcels(engine).filter(({ state }) => state === "sent");
  return (await depotsNow(engine)).map((depot) => ({
    id: depot.id,
    title: depot.title,
    kind: depot.record.kind,
    location: depot.location,
    state: depotState(depot),
    free: depot.capacity.free ?? null,
    total: depot.capacity.total ?? null,
    parcels: all.filter((parcel) => parcel.depot === depot.id).length,
  }));
}

export const listParcels = (engine: Engine): ParcelJson[] => parcels(engine).map((parcel) => parcelJson(engine, parcel));

export function parcelJson(engine: Engine, parcel: Parcel): ParcelJson {
  const { db } = engine;
  const sent = parcel.state === "sent";
  const check = lastCheck(db, parcel.id);
  const row = sendingRow(db, parcel.id);
  const depot = parcel.depot ?? row?.depot;
  const collected = sent ? [] : collectedIn(engine, parcel.id);
  const far = row && !sent ? new ParcelFiles(db, parcel.id).howFar() : undefined;
  return {
    id: parcel.id,
    title: parcel.title,
    depot: depot ? depotTitle(engine, depot) : null,
    state: parcelState(engine, parcel),
    things: sent ? (parcel.things ?? 0) : collected.length,
    files: parcel.files ?? (far?.files || null),
    bytes: parcel.bytes ?? (far?.bytes || collected.reduce((sum, item) => sum + item.bytes, 0)),
    provenAt: check && check.damaged.length === 0 ? time(check.at) : null,
  };
}

/** One parcel: the things in it, or those collected so far. Of one whose depot is away, as they are remembered. */
export async function showParcel(engine: Engine, input: ParcelInput): Promise<ParcelAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  const row = sendingRow(engine.db, parcel.id);
  const said = row?.problem;
  const answer = { ...parcelJson(engine, parcel), problem: said ? new Problem(said.code, said.facts).message : null };
  if (parcel.state === "collecting") {
    const contents = collectedIn(engine, parcel.id).map((item) => ({
      name: item.label,
      folder: shownName(item.folder),
      bytes: item.bytes,
      files: null,
    }));
    return { ...answer, bag: null, contents };
  }
  const known = contentsKnown(engine, parcel);
  if (known.length > 0) return { ...answer, bag: placeOf(engine, parcel), contents: known };
  const bag = await bagOf(engine, parcel);
  const contents = (await thingsIn(engine, bag)).things.map((thing) => ({
    name: shownName(rawFromJson(thing.name)),
    folder: shownName(rawFromJson(thing.folder)),
    bytes: thing.entries.reduce((sum, entry) => sum + entry.bytes, 0),
    files: thing.entries.filter((entry) => entry.type === "file").length,
  }));
  return { ...answer, bag: placeOf(engine, parcel), contents };
}

/** Where a parcel lies, for the person to read: on this computer, or behind an address. */
export function placeOf(engine: Engine, { depot: id, bag }: Parcel): string | null {
  const depot = depots(engine).find((one) => one.id === id);
  return depot && bag ? `${depot.location.replace(/\/$/, "")}/${shownName(bag as Raw)}` : null;
}

/** The things of a parcel as the record keeps them; none of one that an older Vuoto sent. */
function contentsKnown({ db }: Reading, parcel: Parcel): ParcelAnswer["contents"] {
  return new ParcelFiles(db, parcel.id).sizes().map(({ name, folder, bytes, files }) => ({
    name: shownName(name),
    folder: shownName(folder),
    bytes,
    files,
  }));
}
