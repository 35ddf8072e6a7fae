import { joinRaw, type Raw } from "@/core/names/raw";
import type { Disk } from "../../disk/disk";
import type { DepotAddress, DepotStore } from "../store";
import { cloudStore } from "./cloud";
import { driveStore } from "./drive";
import { folderStore } from "./folder";

const kinds: {
  [K in DepotAddress["kind"]]: (address: DepotAddress & { kind: K }, disk: Disk, signal?: AbortSignal) => DepotStore;
} = {
  folder: folderStore,
  drive: driveStore,
  cloud: cloudStore,
};

/** Opens a depot; on this thread, with this disk. `signal` cuts short what waits for another computer. */
export const storeAt = (address: DepotAddress, disk: Disk, signal?: AbortSignal): DepotStore =>
  (kinds[address.kind] as (address: DepotAddress, disk: Disk, signal?: AbortSignal) => DepotStore)(address, disk, signal);

/** Where an entry of a depot lies on this computer, if it does. */
export const placeOnDisk = (address: DepotAddress, path: Raw): Raw | undefined =>
  address.kind === "cloud" || address.folder === undefined ? undefined : joinRaw(address.folder, path);

/** Uses a store, and lets go of its connections. */
export async function withStore<T>(
  address: DepotAddress,
  disk: Disk,
  work: (store: DepotStore) => Promise<T>,
  signal?: AbortSignal,
): Promise<T> {
  const store = storeAt(address, disk, signal);
  try {
    return await work(store);
  } finally {
    await store.close();
  }
}
