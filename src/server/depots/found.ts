import { createHash } from "node:crypto";
import { rawFromJson } from "@/contract/raw-json";
import { bagIdentifier } from "@/core/depots/bagit";
import { joinRaw, type Raw, rawFromText, shownName } from "@/core/names/raw";
import { unlessProblem } from "@/core/problem";
import { prepared } from "../db/prepared";
import { bytes } from "../disk/disk";
import type { Engine } from "../engine";
import { breathing } from "../jobs/gentle";
import { isTemporaryName } from "../ledger/temporaries";
import { bagOf, type Depot, depots, type Parcel, parcels, thingsIn } from "./depots";
import { forgetFound } from "./found-rows";
import { ParcelFiles } from "./parcel-files";
import { readWhole } from "./store";

const idOf = (depot: string, bag: Raw) =>
  `found-${createHash("sha256").update(`${depot}/${bag}`, "latin1").digest("hex").slice(0, 12)}`;

/** Looks through the depots in reach for parcels that are not known, and reads what they say of themselves. */
export async function findParcels(engine: Engine): Promise<void> {
  for (const depot of depots(engine)) {
    if (engine.closing) return;
    await unlessProblem(() => findIn(engine, depot));
  }
}

async function findIn(engine: Engine, depot: Depot): Promise<void> {
  await depot.store.reach();
  const entries = await depot.store.list("" as Raw);
  const bags = entries.filter(({ name, type }) => type === "folder" && !isTemporaryName(name)).map(({ name }) => name);
  const here = parcels(engine).filter((parcel) => parcel.depot === depot.id && parcel.bag);
  const ours = new Set(here.filter(({ found }) => !found).map(({ bag }) => bag));
  const known = new Set(here.filter(({ found }) => found).map(({ bag }) => bag));
  for (const parcel of here) if (parcel.found && !bags.includes(parcel.bag as Raw)) forgetFound(engine.db, parcel.id);
  for (const bag of bags) {
    if (ours.has(bag) || known.has(bag) || engine.closing) continue;
    const declaration = await readWhole(depot.store, joinRaw(bag, rawFromText("bagit.txt")), 4096);
    if (!declaration?.toString("utf8").startsWith("BagIt-Version:")) continue;
    await unlessProblem(() => take(engine, depot, bag));
  }
}

const markedAtOnce = 1000;

/** What a bag says of itself is written down, so that it is found by its names also while its depot is away. */
async function take(engine: Engine, depot: Depot, folder: Raw): Promise<void> {
  const { db } = engine;
  const id = idOf(depot.id, folder);
  const parcel: Parcel = { id, title: shownName(folder), depot: depot.id, state: "sent", madeAt: 0, bag: folder, found: true };
  const bag = await bagOf(engine, parcel);
  const info = (await bag.text("bag-info.txt")) ?? "";
  // One of ours whose record was lost, or whose naming was not heard of, is on its way still.
  const identifier = bagIdentifier(info);
  if (identifier && parcels(engine).some((one) => one.id === identifier && one.depot === null)) return;
  const { things } = await thingsIn(engine, bag);
  const files = new ParcelFiles(db, id);
  let [count, size] = [0, 0];
  const breath = breathing();
  files.forget();
  for (const [n, thing] of things.entries()) {
    const own = thing.entries.filter((entry) => entry.type === "file" && entry.payload !== undefined);
    await files.await(
      {
        item: `${n}`,
        payload: String(n).padStart(8, "0"),
        state: null,
        entries: thing.entries,
        name: rawFromJson(thing.name),
        folder: rawFromJson(thing.folder),
      },
      own.map((entry) => ({ path: entry.payload!, bytes: entry.bytes, seen: "" })),
      breath,
    );
    const sums = own.flatMap((entry) => (entry.sha256 ? [[entry.payload!, entry.sha256] as const] : []));
    for (let at = 0; at < sums.length; at += markedAtOnce) {
      files.mark("written", sums.slice(at, at + markedAtOnce), engine.now());
      await breath();
    }
    // Its record is closed next; what is missing is read anew at the next start.
    if (engine.closing) return;
    count += own.length;
    size += own.reduce((sum, entry) => sum + entry.bytes, 0);
  }
  // Last, as it is listed by this: what was cut short before is read anew.
  const title = /^External-Description: (.+)$/m.exec(info)?.[1]?.slice(0, 120) ?? shownName(folder);
  prepared<[string, string, Buffer, string, number, number, number, number]>(
    db,
    "INSERT OR REPLACE INTO found_parcel (parcel, depot, bag, title, things, files, bytes, at) VALUES (?, ?, ?, ?, ?, ?, ?, ?)",
  ).run(id, depot.id, bytes(folder), title, things.length, count, size, engine.now());
  engine.events.emit({ type: "changed", what: "parcels" });
}
