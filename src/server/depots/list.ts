import type { CheckInput } from "@/contract/depots";
import { rawFromJson } from "@/contract/raw-json";
import { joinRaw, shownName } from "@/core/names/raw";
import type { Engine } from "../engine";
import { bagOf, collectedIn, depotsNow, parcelMeant, parcels, thingsIn } from "./depots";

/** Depots and parcels as data, for the command line. */
export async function listDepots(engine: Engine) {
  const all = await depotsNow(engine);
  const titles = new Map(all.map((d) => [d.id, d.title]));
  return {
    depots: all.map(({ id, title, address, there, free }) => ({
      id,
      title,
      folder: shownName(address.folder),
      there,
      free: free ?? null,
    })),
    parcels: parcels(engine).map((parcel) => ({
      id: parcel.id,
      title: parcel.title,
      state: parcel.state,
      depot: parcel.depot ? (titles.get(parcel.depot) ?? null) : null,
      things: parcel.state === "sent" ? (parcel.things ?? 0) : collectedIn(engine, parcel.id).length,
      files: parcel.files ?? null,
      bytes: parcel.bytes ?? null,
      sentAt: parcel.sentAt ? new Date(parcel.sentAt).toISOString() : null,
    })),
  };
}

/** One parcel: the things in it, or those collected so far. */
export async function showParcel(engine: Engine, input: CheckInput) {
  const parcel = await parcelMeant(engine, input.parcel);
  if (parcel.state === "collecting") {
    const things = collectedIn(engine, parcel.id).map((item) => ({
      name: item.label,
      folder: shownName(item.folder),
      bytes: item.bytes,
      files: null,
    }));
    return { id: parcel.id, title: parcel.title, state: parcel.state, bag: null, things };
  }
  const bag = await bagOf(engine, parcel);
  const things = (await thingsIn(engine, bag)).things.map((thing) => ({
    name: shownName(rawFromJson(thing.name)),
    folder: shownName(rawFromJson(thing.folder)),
    bytes: thing.entries.reduce((sum, entry) => sum + entry.bytes, 0),
    files: thing.entries.filter((entry) => entry.type === "file").length,
  }));
  return {
    id: parcel.id,
    title: parcel.title,
    state: parcel.state,
    bag: shownName(joinRaw(bag.depot.address.folder, bag.folder)),
    things,
  };
}
