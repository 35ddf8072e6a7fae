import { Problem } from "@/core/problem";
import type { Engine } from "../engine";
import { sharedMemory } from "../shared";
import type { Parcel } from "./depots";

/** Parcels that are being read just now, by how many; and those that are being deleted. */
interface InHand {
  read: Map<string, number>;
  deleted: Set<string>;
}

const memory = sharedMemory<Engine, InHand>("parcels in hand");

function inHand(engine: Engine): InHand {
  const known = memory.get(engine) ?? { read: new Map(), deleted: new Set() };
  memory.set(engine, known);
  return known;
}

const busy = ({ title }: Parcel, detail: string) => new Problem("on-its-way", { name: title, detail });

/** Reads a parcel, which is not deleted meanwhile: what is missing of one that is being deleted says nothing of damage. */
export async function whileRead<T>(engine: Engine, parcel: Parcel, work: () => Promise<T>): Promise<T> {
  const { read, deleted } = inHand(engine);
  if (deleted.has(parcel.id)) throw busy(parcel, "it is being deleted");
  read.set(parcel.id, (read.get(parcel.id) ?? 0) + 1);
  try {
    return await work();
  } finally {
    const left = read.get(parcel.id)! - 1;
    if (left > 0) read.set(parcel.id, left);
    else read.delete(parcel.id);
  }
}

/** Deletes a parcel that nobody reads just now. */
export async function whileDeleted<T>(engine: Engine, parcel: Parcel, work: () => Promise<T>): Promise<T> {
  const { read, deleted } = inHand(engine);
  if (read.has(parcel.id)) throw busy(parcel, "it is being read");
  deleted.add(parcel.id);
  try {
    return await work();
  } finally {
    deleted.delete(parcel.id);
  }
}
