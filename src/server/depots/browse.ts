import type { BrowseAnswer, BrowseInput, FindAnswer, FindInput } from "@/contract/depots";
import { Problem } from "@/core/problem";
import { goneNow } from "../actor";
import { type DepotRecord, readRecord } from "../db/record";
import type { Engine } from "../engine";
import { asNamed, listed } from "./contents";
import { bagOf, depots, depotTitle, type Parcel, parcelMeant, parcels, thingsIn } from "./depots";

const mostListed = 1000;

/** What lies in a folder of a parcel; at its top, the things in it. As the record keeps it, or as its bag says. */
export async function browse(engine: Engine, input: BrowseInput): Promise<BrowseAnswer> {
  const parcel = await parcelMeant(engine, input.parcel);
  if (parcel.state !== "sent") throw new Problem("unknown-parcel", { name: `${parcel.title} (not sent yet)` });
  const folder = input.folder ?? "";
  const asked = { record: engine.db.name, parcel: parcel.id, folder, most: mostListed };
  const known = await engine.workers.run("listInParcel", asked, { urgent: true, signal: goneNow() });
  return {
    parcel: parcel.title,
    fromRecord: known !== null,
    local: readRecord<DepotRecord>(engine.db, `depot:${parcel.depot}`)?.kind !== "cloud",
    folder,
    ...(known ?? (await listedInBag(engine, parcel, folder))),
  };
}

async function listedInBag(engine: Engine, parcel: Parcel, folder: string): Promise<Pick<BrowseAnswer, "entries" | "more">> {
  const { things } = await thingsIn(engine, await bagOf(engine, parcel));
  const found = listed(asNamed(things), folder, mostListed);
  if (!found) throw new Problem("vanished", { name: folder });
  return found;
}

const mostFound = 100;

/** Files in all parcels of whose path every word is a part; in those of depots that are away, too. */
export async function find(engine: Engine, input: FindInput): Promise<FindAnswer> {
  const near = new Set<string>();
  await Promise.all(
    depots(engine).map(async ({ id, record, store }) => {
      // Of a cloud it is only known when it is asked.
      if (
        record.kind === "cloud" ||
        (await store.reach().then(
          () => true,
          () => false,
        ))
      )
        near.add(id);
    }),
  );
  const sent = new Map(parcels(engine).flatMap((parcel) => (parcel.state === "sent" ? [[parcel.id, parcel] as const] : [])));
  const asked = { record: engine.db.name, parcels: [...sent.keys()], search: input.words, most: mostFound };
  const { found, more } = await engine.jobs.run("Looking through parcels", "things", sent.size, (job) => {
    const gone = goneNow();
    const signal = gone ? AbortSignal.any([gone, job.signal]) : job.signal;
    return engine.workers.run("findInParcels", asked, { part: job.more as (part: never) => void, signal });
  });
  return {
    found: found.map(({ parcel, path, bytes }) => {
      const { title, depot } = sent.get(parcel)!;
      return { parcel, title, depot: depotTitle(engine, depot), near: near.has(depot ?? ""), path, bytes };
    }),
    more,
  };
}
