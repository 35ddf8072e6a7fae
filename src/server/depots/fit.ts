import type { FitAnswer } from "@/contract/depots";
import { cut, fitLoads } from "@/core/depots/fit";
import type { Engine } from "../engine";
import { collectedIn, depotsNow, depotTitle, parcels } from "./depots";
import { sendingRow } from "./sending-row";

/** How the parcels that are collected would fit into what is free in the depots in reach; what does not fit as a whole is cut. */
export async function fitParcels(engine: Engine): Promise<FitAnswer> {
  const rooms = (await depotsNow(engine)).flatMap(({ id, problem, capacity }) => (problem ? [] : [{ id, free: capacity.free }]));
  const waiting = parcels(engine)
    .filter((parcel) => parcel.state === "collecting" && !sendingRow(engine.db, parcel.id))
    .map((parcel) => {
      const items = collectedIn(engine, parcel.id);
      return { parcel, items, bytes: items.reduce((sum, item) => sum + item.bytes, 0) };
    })
    .filter(({ items }) => items.length > 0);
  const { where } = fitLoads(
    waiting.map(({ parcel, bytes }) => ({ id: parcel.id, bytes })),
    rooms,
  );
  const bytesOf = new Map(waiting.map(({ parcel, bytes }) => [parcel.id, bytes]));
  const left = rooms.map((room) => {
    const placed = [...where].reduce((sum, [parcel, depot]) => sum + (depot === room.id ? bytesOf.get(parcel)! : 0), 0);
    return { id: room.id, free: room.free === undefined ? undefined : room.free - placed };
  });
  return {
    parcels: waiting.map(({ parcel, items, bytes }) => {
      const depot = where.get(parcel.id);
      const loads = items.map((item) => ({ id: item.id, bytes: item.bytes }));
      const { parts, over } = depot ? { parts: [], over: [] } : cut(loads, left);
      const known = new Map(items.map((item) => [item.id, item]));
      const sum = (ids: string[]) => ids.reduce((total, id) => total + known.get(id)!.bytes, 0);
      return {
        id: parcel.id,
        title: parcel.title,
        bytes,
        depot: depot ? depotTitle(engine, depot) : null,
        depotId: depot ?? null,
        parts: parts.map((part) => ({
          depot: depotTitle(engine, part.depot),
          things: part.things.length,
          bytes: sum(part.things),
          items: part.things,
        })),
        tooLarge: over.map((id) => ({ name: known.get(id)!.label, bytes: known.get(id)!.bytes })),
      };
    }),
  };
}
